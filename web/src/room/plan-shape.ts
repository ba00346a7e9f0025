import type { RoomDoc } from '../api/client'
import { type PointM, wallsOf } from './geometry'

/** The plan as a value: what can be done to its corners and walls, and how everything in the room follows. No DOM here. */
export type Plan = readonly PointM[]

export const SLIVER_M = 0.05
const round = (value: number) => Math.round(value * 10000) / 10000
const at = (x: number, y: number): PointM => [round(x), round(y)]

export const lengthOf = (plan: Plan, wall: number) => {
  const [a, b] = [plan[wall]!, plan[(wall + 1) % plan.length]!]
  return Math.hypot(b[0] - a[0], b[1] - a[1])
}

export const areaOf = (plan: Plan) =>
  plan.reduce((sum, [x, y], i) => {
    const [nx, ny] = plan[(i + 1) % plan.length]!
    return sum + (x * ny - nx * y) / 2
  }, 0)

export const centreOf = (plan: Plan): PointM => {
  const area = areaOf(plan)
  const [cx, cy] = plan.reduce(
    ([sx, sy], [x, y], i) => {
      const [nx, ny] = plan[(i + 1) % plan.length]!
      const cross = x * ny - nx * y
      return [sx + (x + nx) * cross, sy + (y + ny) * cross] as const
    },
    [0, 0] as const,
  )
  return [cx / (6 * area), cy / (6 * area)]
}

export function inside(plan: Plan, [x, y]: PointM): boolean {
  let odd = false
  for (let i = 0, j = plan.length - 1; i < plan.length; j = i, i += 1) {
    const [xi, yi] = plan[i]!
    const [xj, yj] = plan[j]!
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) odd = !odd
  }
  return odd
}

/** Distance from a place to the nearest wall. */
export const wallGap = (plan: Plan, p: PointM) =>
  Math.min(...plan.map((from, i) => distanceTo(p, from, plan[(i + 1) % plan.length]!)))

export function distanceTo([x, y]: PointM, [ax, ay]: PointM, [bx, by]: PointM): number {
  const [dx, dy] = [bx - ax, by - ay]
  const t = Math.min(Math.max(((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1), 0), 1)
  return Math.hypot(x - ax - t * dx, y - ay - t * dy)
}

/** Why a plan cannot stand, in words; null when it can. The server has the last word; this one is there while dragging. */
export function planTrouble(plan: Plan): string | null {
  if (plan.length < 3) return 'A floor needs three corners or more.'
  for (let i = 0; i < plan.length; i += 1)
    if (lengthOf(plan, i) < SLIVER_M) return `Wall ${i + 1} would be shorter than 5 cm.`
  if (areaOf(plan) <= 0) return 'The walls would turn inside out.'
  for (let i = 0; i < plan.length; i += 1)
    for (let j = i + 2; j < plan.length; j += 1) {
      if (i === 0 && j === plan.length - 1) continue
      if (crosses(plan[i]!, plan[i + 1]!, plan[j]!, plan[(j + 1) % plan.length]!))
        return `Walls ${i + 1} and ${j + 1} would cross.`
    }
  const xs = plan.map((p) => p[0])
  const ys = plan.map((p) => p[1])
  if (Math.max(...xs) - Math.min(...xs) > 25 || Math.max(...ys) - Math.min(...ys) > 25)
    return 'A room here is at most 25 m long.'
  return null
}

function crosses(a: PointM, b: PointM, c: PointM, d: PointM): boolean {
  const side = (p: PointM, q: PointM, r: PointM) => (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])
  if (side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0) return true
  return [c, d].some((p) => distanceTo(p, a, b) < 1e-3) || [a, b].some((p) => distanceTo(p, c, d) < 1e-3)
}

/** A corner moved, snapped to the lines of other corners when it comes within `reach` of them. */
export function cornerMoved(plan: Plan, corner: number, to: PointM, reachM = 0.04): Plan {
  const others = plan.filter((_, i) => i !== corner)
  const near = (value: number, axis: 0 | 1) => {
    const best = others.reduce((a, p) => (Math.abs(p[axis] - value) < Math.abs(a - value) ? p[axis] : a), Infinity)
    return Math.abs(best - value) <= reachM ? best : Math.round(value * 100) / 100
  }
  return plan.map((p, i) => (i === corner ? at(near(to[0], 0), near(to[1], 1)) : p))
}

/** A wall moved square to itself by `by` metres into the room; its neighbours grow or shrink along their own lines. */
export function wallMoved(plan: Plan, wall: number, by: number): Plan {
  const n = plan.length
  const [a, b] = [plan[wall]!, plan[(wall + 1) % n]!]
  const [before, after] = [plan[(wall + n - 1) % n]!, plan[(wall + 2) % n]!]
  const length = lengthOf(plan, wall)
  const inward: PointM = [-(b[1] - a[1]) / length, (b[0] - a[0]) / length]
  const slide = (p: PointM, away: PointM): PointM => {
    const [dx, dy] = [p[0] - away[0], p[1] - away[1]]
    const across = dx * inward[0] + dy * inward[1]
    const size = Math.hypot(dx, dy)
    // a neighbour nearly in line with the wall cannot be followed: move square instead
    if (Math.abs(across) < 0.2 * size) return at(p[0] + inward[0] * by, p[1] + inward[1] * by)
    return at(p[0] + (dx / across) * by, p[1] + (dy / across) * by)
  }
  return plan.map((p, i) => (i === wall ? slide(a, before) : i === (wall + 1) % n ? slide(b, after) : p))
}

/** A wall given its length: the corners after it move along its direction as far as the shape's own right angles let them. */
export function wallSized(plan: Plan, wall: number, lengthM: number): Plan {
  const n = plan.length
  const [a, b] = [plan[wall]!, plan[(wall + 1) % n]!]
  const now = lengthOf(plan, wall)
  const [dx, dy] = [((b[0] - a[0]) / now) * (lengthM - now), ((b[1] - a[1]) / now) * (lengthM - now)]
  // move the far corner, and every following one until a wall runs along the stretch and can take it up
  const moved = new Set<number>()
  for (let i = (wall + 1) % n; i !== wall; i = (i + 1) % n) {
    moved.add(i)
    const [p, q] = [plan[i]!, plan[(i + 1) % n]!]
    const along = Math.abs((q[0] - p[0]) * (b[0] - a[0]) + (q[1] - p[1]) * (b[1] - a[1]))
    if (along > 0.3 * Math.hypot(q[0] - p[0], q[1] - p[1]) * now) break
  }
  return plan.map((p, i) => (moved.has(i) ? at(p[0] + dx, p[1] + dy) : p))
}

export type Template = 'box' | 'L' | 'alcove' | 'bay' | 'chimney' | 'attic' | 'nook'
export const TEMPLATES: readonly { key: Template; name: string; hint: string }[] = [
  { key: 'box', name: 'Box', hint: 'four walls' },
  { key: 'L', name: 'L', hint: 'a corner taken out' },
  { key: 'alcove', name: 'Alcove', hint: 'a recess in one wall' },
  { key: 'bay', name: 'Bay', hint: 'a window that bows out' },
  { key: 'chimney', name: 'Chimney', hint: 'a breast with two alcoves' },
  { key: 'attic', name: 'Attic', hint: 'slopes on two sides' },
  { key: 'nook', name: 'Corridor', hint: 'narrow, with a nook' },
]

/** A starting plan of a kind, as large as the room that stands. */
export function templatePlan(kind: Template, w: number, d: number): Plan {
  const raw: Record<Template, [number, number][]> = {
    box: [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ],
    attic: [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ],
    L: [
      [0, 0],
      [1, 0],
      [1, 0.55],
      [0.58, 0.55],
      [0.58, 1],
      [0, 1],
    ],
    alcove: [
      [0, 0],
      [1, 0],
      [1, 1],
      [0.68, 1],
      [0.68, 1.13],
      [0.3, 1.13],
      [0.3, 1],
      [0, 1],
    ],
    bay: [
      [0, 0],
      [1, 0],
      [1, 1],
      [0.8, 1],
      [0.66, 1.16],
      [0.34, 1.16],
      [0.2, 1],
      [0, 1],
    ],
    chimney: [
      [0, 0],
      [1, 0],
      [1, 1],
      [0.7, 1],
      [0.7, 0.87],
      [0.3, 0.87],
      [0.3, 1],
      [0, 1],
    ],
    nook: [
      [0, 0],
      [1, 0],
      [1, 0.42],
      [0.8, 0.42],
      [0.8, 0.9],
      [0.5, 0.9],
      [0.5, 0.42],
      [0, 0.42],
    ],
  }
  return raw[kind].map(([x, y]) => at(x * w, y * d))
}

export type Ceiling = RoomDoc['shape']['ceiling']

export function templateCeiling(kind: Template, depth: number, high: number): Ceiling {
  if (kind !== 'attic') return { kind: 'flat', height_m: high, drops: [] }
  const knee = round(Math.max(high * 0.42, 0.4))
  return {
    kind: 'pitched',
    along: 'y',
    drops: [],
    profile: [
      [0, knee],
      [round(depth * 0.42), high],
      [round(depth * 0.58), high],
      [round(depth), knee],
    ],
  }
}

/** Height of the ceiling over a place, as the server computes it; the plan's lower corner is where profiles begin counting. */
export function ceilingAt(ceiling: Ceiling, [x, y]: PointM): number {
  let high = ceiling.height_m ?? 2.4
  if (ceiling.kind === 'pitched' && ceiling.profile?.length) {
    const d = ceiling.along === 'x' ? x : y
    const points = ceiling.profile
    const next = points.findIndex(([at]) => at >= d)
    if (next <= 0) high = next === 0 ? points[0]![1] : points[points.length - 1]![1]
    else {
      const [[d0, h0], [d1, h1]] = [points[next - 1]!, points[next]!]
      high = d1 - d0 < 1e-9 ? h1 : h0 + ((h1 - h0) * (d - d0)) / (d1 - d0)
    }
  }
  for (const drop of ceiling.drops ?? [])
    if (x >= drop.x_m && x <= drop.x_m + drop.width_m && y >= drop.y_m && y <= drop.y_m + drop.depth_m)
      high = Math.min(high, drop.height_m)
  return high
}

export const highestOf = (ceiling: Ceiling) =>
  ceiling.kind === 'pitched' && ceiling.profile?.length
    ? Math.max(...ceiling.profile.map(([, h]) => h))
    : (ceiling.height_m ?? 2.4)

type Patch = { surface: string; x_m: number; z_m: number; width_m: number; height_m: number }
const wallNumber = (surface: string) => (surface.startsWith('wall-') ? Number(surface.slice(5)) - 1 : null)

/** The document with another plan and ceiling: whatever stands or hangs in it is pulled in so that it still fits. */
export function reshaped(document: RoomDoc, plan: Plan, ceiling: Ceiling = document.shape.ceiling): RoomDoc {
  const next = { ...document, shape: { plan: plan.map((p) => [...p] as [number, number]), ceiling } }
  const walls = wallsOf(next)
  const xs = plan.map((p) => p[0])
  const ys = plan.map((p) => p[1])
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const onFace = <T extends Patch>(t: T): T[] => {
    const number = wallNumber(t.surface)
    if (number === null) {
      if (t.surface !== 'floor' && !t.surface.startsWith('ceiling')) return [t]
      const width_m = Math.min(t.width_m, x1 - x0)
      const height_m = Math.min(t.height_m, y1 - y0)
      return [{ ...t, width_m, height_m, x_m: clamp(t.x_m, x0, x1 - width_m), z_m: clamp(t.z_m, y0, y1 - height_m) }]
    }
    const wall = walls[number]
    if (!wall) return []
    const long = Math.hypot(wall.to[0] - wall.from[0], wall.to[1] - wall.from[1])
    const width_m = round(Math.min(t.width_m, long))
    if (width_m < 0.05) return []
    const x_m = clamp(t.x_m, 0, long - width_m)
    const place = (s: number): PointM => [
      wall.from[0] + ((wall.to[0] - wall.from[0]) * s) / long - wall.outward[0] * 0.01,
      wall.from[1] + ((wall.to[1] - wall.from[1]) * s) / long - wall.outward[1] * 0.01,
    ]
    const high = Math.min(...[0, 0.25, 0.5, 0.75, 1].map((k) => ceilingAt(ceiling, place(x_m + k * width_m))))
    const z_m = Math.min(t.z_m, Math.max(high - 0.1, 0))
    const height_m = Math.min(t.height_m, high - z_m)
    return height_m < 0.05 ? [] : [{ ...t, x_m: round(x_m), width_m, z_m: round(z_m), height_m: round(height_m) }]
  }
  const at3 = (p: readonly number[], gap = 0.12): [number, number, number] => {
    const [x, y] = pulledIn(plan, [p[0]!, p[1]!], gap)
    return [x, y, round(Math.max(Math.min(p[2]!, ceilingAt(ceiling, [x, y]) - 0.08), 0.05))]
  }
  const footed = ([x, y, z]: readonly [number, number, number], gap: number): [number, number, number] => [
    ...pulledIn(plan, [x, y], Math.min(gap, 0.4)),
    z,
  ]
  const names = new Set(['floor', 'ceiling', ...walls.map((w) => w.name)])
  return {
    ...next,
    surfaces: Object.fromEntries(
      Object.entries(document.surfaces).filter(([name]) => names.has(name) || name.startsWith('ceiling-')),
    ),
    openings: document.openings.flatMap(onFace),
    covers: document.covers.flatMap(onFace),
    furnishings: document.furnishings.map((f) => ({ ...f, at: furnitureIn(plan, f) })),
    noises: document.noises.map((n) =>
      n.at ? { ...n, at: at3(n.at) } : n.surface && names.has(n.surface) ? n : { ...n, surface: 'wall-1' },
    ),
    tape: document.tape.filter((r) => r.start <= plan.length && r.end <= plan.length),
    arrangements: document.arrangements.map((a) => ({
      ...a,
      performer: { ...a.performer, at: at3(a.performer.at) },
      microphone: { ...a.microphone, at: at3(a.microphone.at) },
      monitors: a.monitors.map((m) => ({ ...m, at: at3(m.at) })),
      listener: a.listener ? { ...a.listener, at: at3(a.listener.at) } : null,
      second_microphone: a.second_microphone ? { ...a.second_microphone, at: at3(a.second_microphone.at) } : null,
      laptop: a.laptop ? { ...a.laptop, at: at3(a.laptop.at) } : null,
      // a screen needs its width: one that no longer fits where it was put is pulled in by half of it
      screens: a.screens.map((s) => ({ ...s, at: footed(s.at, s.width_m / 2) })),
      treatments: a.treatments.flatMap(onFace),
    })),
  }
}

const clamp = (value: number, low: number, high: number) => round(Math.min(Math.max(value, low), Math.max(high, low)))

/** The nearest step towards the middle of the floor that lies inside and clear of the walls. */
function pulledIn(plan: Plan, p: PointM, gap: number): [number, number] {
  if (inside(plan, p) && wallGap(plan, p) >= Math.min(gap, 0.02)) return [round(p[0]), round(p[1])]
  const goal = inside(plan, centreOf(plan)) ? centreOf(plan) : deepest(plan)
  for (let k = 1; k <= 50; k += 1) {
    const q: PointM = [p[0] + ((goal[0] - p[0]) * k) / 50, p[1] + ((goal[1] - p[1]) * k) / 50]
    if (inside(plan, q) && wallGap(plan, q) >= gap) return [round(q[0]), round(q[1])]
  }
  return [round(goal[0]), round(goal[1])]
}

/** The place on a coarse grid that is furthest from all walls: where the middle of an L is not inside. */
function deepest(plan: Plan): PointM {
  const xs = plan.map((p) => p[0])
  const ys = plan.map((p) => p[1])
  let best: PointM = plan[0]!
  let most = -1
  for (let i = 1; i < 24; i += 1)
    for (let j = 1; j < 24; j += 1) {
      const q: PointM = [
        Math.min(...xs) + ((Math.max(...xs) - Math.min(...xs)) * i) / 24,
        Math.min(...ys) + ((Math.max(...ys) - Math.min(...ys)) * j) / 24,
      ]
      const gap = inside(plan, q) ? wallGap(plan, q) : -1
      if (gap > most) [best, most] = [q, gap]
    }
  return best
}

type Furnishing = RoomDoc['furnishings'][number]

export function footprintOf(
  piece: Pick<Furnishing, 'at' | 'size_m' | 'turn_deg'>,
  size = piece.size_m ?? [1, 0.5, 1],
): PointM[] {
  const turn = (piece.turn_deg * Math.PI) / 180
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  return [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([i, j]) => {
    const [u, v] = [(i! * size[0]!) / 2, (j! * size[1]!) / 2]
    return [piece.at[0] + u * c - v * s, piece.at[1] + u * s + v * c] as const
  })
}

/** A piece pushed towards the middle until it stands within the walls. */
export function furnitureIn(plan: Plan, piece: Furnishing): [number, number] {
  const fits = (p: PointM) =>
    footprintOf({ ...piece, at: [p[0], p[1]] }).every((q) => inside(plan, q) || wallGap(plan, q) < 0.08)
  if (fits(piece.at)) return piece.at
  const goal = inside(plan, centreOf(plan)) ? centreOf(plan) : deepest(plan)
  for (let k = 1; k <= 40; k += 1) {
    const q: PointM = [
      piece.at[0] + ((goal[0] - piece.at[0]) * k) / 40,
      piece.at[1] + ((goal[1] - piece.at[1]) * k) / 40,
    ]
    if (fits(q)) return [round(q[0]), round(q[1])]
  }
  return [round(goal[0]), round(goal[1])]
}

const renamed = (document: RoomDoc, to: (wall: number, x_m: number) => [number, number] | null): RoomDoc => {
  const patch = <T extends Patch>(t: T): T[] => {
    const number = wallNumber(t.surface)
    if (number === null) return [t]
    const next = to(number, t.x_m)
    return next ? [{ ...t, surface: `wall-${next[0] + 1}`, x_m: round(next[1]) }] : []
  }
  const wallName = (name: string) => {
    const number = wallNumber(name)
    const next = number === null ? null : to(number, 0)
    return number === null ? name : next ? `wall-${next[0] + 1}` : 'wall-1'
  }
  return {
    ...document,
    surfaces: Object.fromEntries(Object.entries(document.surfaces).map(([name, s]) => [wallName(name), s])),
    openings: document.openings.flatMap(patch),
    covers: document.covers.flatMap(patch),
    noises: document.noises.map((n) => (n.surface ? { ...n, surface: wallName(n.surface) } : n)),
    arrangements: document.arrangements.map((a) => ({ ...a, treatments: a.treatments.flatMap(patch) })),
  }
}

/** A wall split in two by a corner half way along; what hangs on it keeps its place. */
export function cornerAdded(document: RoomDoc, wall: number): RoomDoc {
  const plan = document.shape.plan as Plan
  const half = lengthOf(plan, wall) / 2
  const [a, b] = [plan[wall]!, plan[(wall + 1) % plan.length]!]
  const split = [...plan.slice(0, wall + 1), at((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), ...plan.slice(wall + 1)]
  const moved = renamed(document, (w, x) =>
    w < wall ? [w, x] : w > wall ? [w + 1, x] : x < half ? [w, x] : [w + 1, x - half],
  )
  const before = document.surfaces[`wall-${wall + 1}`]
  const surfaces = before ? { ...moved.surfaces, [`wall-${wall + 2}`]: { ...before, regions: [] } } : moved.surfaces
  return reshaped({ ...moved, surfaces, tape: [] }, split)
}

/** A corner taken out: the two walls that met there become one. */
export function cornerRemoved(document: RoomDoc, corner: number): RoomDoc {
  const plan = document.shape.plan as Plan
  const n = plan.length
  const before = (corner + n - 1) % n
  const longBefore = lengthOf(plan, before)
  const kept = plan.filter((_, i) => i !== corner)
  const shift = (w: number) => (w > corner || (corner === 0 && w > 0) ? w - 1 : w)
  const moved = renamed(document, (w, x) =>
    w === corner
      ? [corner === 0 ? n - 2 : before, x + longBefore]
      : [corner === 0 && w === n - 1 ? n - 2 : shift(w), x],
  )
  return reshaped({ ...moved, tape: [] }, kept)
}
