import type { Arrangement, RoomDoc } from '../api/client'
import { asUsed } from '../state/as-used'
import type { FurnishingKinds } from './furniture'
import { degrees, onWall, type PointM, turned, type Wall, wallsOf } from './geometry'
import { ceilingAt, footprintOf, furnitureIn, inside, lengthOf, type Plan, wallGap } from './plan-shape'

/** Where on the floor and on the walls there is room: what the server would refuse, and where new things land. */

type Piece = RoomDoc['furnishings'][number]
type Outline = readonly PointM[]
/** A piece hung or let into a wall, by its lower corner. */
export type OnWall = { surface: string; x_m: number; z_m: number; width_m: number; height_m: number }

const STEP_M = 0.05
const CLEAR_M = 0.02
const PERSON_M = 0.6
const STAND_M = 0.4
const BESIDE_M = 0.06
const SEATS = ['bed', 'day-bed', 'sofa', 'armchair', 'chair']
/** Lower than that one steps over it, and it stands before a wall without hiding it. */
const LOW_M = 0.15

/** Everybody and everything that has a place of its own, people with the room they need. */
function standing(a: Arrangement): { at: readonly number[]; roomM: number }[] {
  return [
    { at: a.performer.at, roomM: PERSON_M },
    ...[a.microphone, a.second_microphone, a.laptop, ...a.monitors].flatMap((m) =>
      m ? [{ at: m.at, roomM: STAND_M }] : [],
    ),
    ...(a.listener ? [{ at: a.listener.at, roomM: PERSON_M }] : []),
    ...a.screens.map((s) => ({ at: [s.at[0], s.at[1], s.at[2] + 0.01], roomM: STAND_M })),
  ]
}

/** Whether a point lies inside what a piece blocks. */
function encloses(piece: Piece, [x, y, z]: readonly number[], kinds: FurnishingKinds): boolean {
  const [low, high] = kinds[piece.kind]?.body ?? [0, 0]
  const tall = heightOf(piece, kinds)
  return low * tall < z! && z! < high * tall && inside(footprintOf(piece), [x!, y!])
}
const heightOf = (piece: Piece, kinds: FurnishingKinds) => piece.size_m?.[2] ?? kinds[piece.kind]?.size_m[2] ?? 1

/** Whether somebody or something may be at a point, as the server judges it. */
export function mayBe(room: RoomDoc, kinds: FurnishingKinds, [x, y]: PointM, z: number): boolean {
  const plan = room.shape.plan as Plan
  return (
    inside(plan, [x, y]) &&
    wallGap(plan, [x, y]) > 0.04 &&
    z < ceilingAt(room.shape.ceiling, [x, y]) &&
    !room.furnishings.some((piece) => encloses(piece, [x, y, z], kinds))
  )
}

/** Whether a piece stands within the walls with nobody inside it, in any arrangement. */
export function pieceMayStand(room: RoomDoc, kinds: FurnishingKinds, piece: Piece): boolean {
  const plan = room.shape.plan as Plan
  return (
    footprintOf(piece).every((q) => inside(plan, q) || wallGap(plan, q) < 0.06) &&
    !room.arrangements.some((a) => standing(a).some(({ at }) => encloses(piece, at, kinds)))
  )
}

/** What the performer stands in, though they could not in the room; null where the floor is free. */
export function stoodIn(room: RoomDoc, active: Arrangement, kinds: FurnishingKinds): Piece | null {
  const { at } = active.performer
  const seated = room.brief.posture === 'seated'
  return (
    asUsed(room, active).furnishings.find(
      (piece) =>
        piece.kind !== 'person' &&
        heightOf(piece, kinds) > LOW_M &&
        !(seated && SEATS.includes(piece.kind)) &&
        inside(footprintOf(piece), [at[0], at[1]]),
    ) ?? null
  )
}

/** Whether two convex outlines are apart: some edge has all of the other on its outer side. */
function apart(one: Outline, other: Outline): boolean {
  const splits = (a: Outline, b: Outline) =>
    a.some((p, i) => {
      const q = a[(i + 1) % a.length]!
      return b.every((r) => (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0]) <= 1e-9)
    })
  return splits(one, other) || splits(other, one)
}

const square = ([x, y]: readonly number[], side: number): Outline =>
  footprintOf({ at: [x!, y!], size_m: [side, side, 1], turn_deg: 0 })

/** Where a door swings and people come in. */
function doorways(room: RoomDoc): Outline[] {
  const walls = wallsOf(room)
  return room.openings.flatMap((o) => {
    const wall = walls.find((w) => w.name === o.surface)
    if (o.kind !== 'door' || !wall) return []
    return [before(wall, o.x_m, o.width_m, o.width_m)]
  })
}

/** The floor before a stretch of a wall, so deep. */
const before = (wall: Wall, x: number, wide: number, deep: number): Outline => [
  onWall(wall, x, CLEAR_M),
  onWall(wall, x + wide, CLEAR_M),
  onWall(wall, x + wide, deep),
  onWall(wall, x, deep),
]

/** Everything that has its place on the floor; people and stands with their room about them, or the bare spot. */
function taken(room: RoomDoc, active: Arrangement, closeM: number | null = null): Outline[] {
  return [
    ...asUsed(room, active).furnishings.map((p) => footprintOf(p)),
    ...room.arrangements.flatMap((a) => standing(a).map(({ at, roomM }) => square(at, closeM ?? roomM))),
    ...doorways(room),
  ]
}

/**
 * Where a new piece stands: its back to a wall, near a corner, clear of people, stands, doors and furniture, off windows
 * when it is high; where no wall has room, on the free floor; where that is full, in nobody's place at least.
 */
export function freeFloor(room: RoomDoc, active: Arrangement, kinds: FurnishingKinds, piece: Piece): Piece {
  const plan = room.shape.plan as Plan
  const within = (p: Piece) => footprintOf(p).every((q) => inside(plan, q) || wallGap(plan, q) < 1e-6)
  const freeOf = (obstacles: readonly Outline[]) => (p: Piece) =>
    within(p) && obstacles.every((o) => apart(footprintOf(p), o))
  // in a small room people come near a bed rather than lie under it
  const tries = [freeOf(taken(room, active)), freeOf(taken(room, active, BESIDE_M))]
  const middle = furnitureIn(plan, piece)
  for (const isFree of tries) {
    const found = atAWall(room, kinds, piece, isFree)
    if (found) return found
    for (const at of outwards(room, middle)) if (isFree({ ...piece, at })) return { ...piece, at }
  }
  for (const at of outwards(room, middle))
    if (within({ ...piece, at }) && pieceMayStand(room, kinds, { ...piece, at })) return { ...piece, at }
  return { ...piece, at: middle }
}

/** Back to a wall, near a corner of the longest, off windows where it is high. */
function atAWall(
  room: RoomDoc,
  kinds: FurnishingKinds,
  piece: Piece,
  isFree: (placed: Piece) => boolean,
): Piece | null {
  const [long, deep] = [piece.size_m?.[0] ?? 1, piece.size_m?.[1] ?? 0.5]
  let best: Piece | null = null
  let least = Infinity
  for (const wall of wallsOf(room)) {
    const length = Math.hypot(wall.to[0] - wall.from[0], wall.to[1] - wall.from[1])
    const turn_deg = turned(Math.round(degrees(Math.atan2(wall.outward[0], -wall.outward[1]))))
    for (let s = long / 2 + CLEAR_M; s <= length - long / 2 - CLEAR_M + 1e-9; s += STEP_M) {
      const covers = room.openings.some(
        (o) =>
          o.kind === 'window' &&
          o.surface === wall.name &&
          heightOf(piece, kinds) > o.z_m &&
          s - long / 2 < o.x_m + o.width_m &&
          o.x_m < s + long / 2,
      )
      const cost = Math.min(s - long / 2, length - long / 2 - s) - 0.2 * length + (covers ? 50 : 0)
      if (cost >= least) continue
      const placed = { ...piece, turn_deg, at: rounded(onWall(wall, s, deep / 2 + CLEAR_M)) }
      if (isFree(placed)) [best, least] = [placed, cost]
    }
  }
  return best
}

/** The nearest free place on the floor to a wished one, for somebody or something that needs so much room. */
export function freeSpot(
  room: RoomDoc,
  active: Arrangement,
  kinds: FurnishingKinds,
  from: PointM,
  { z, roomM, besides = [] }: { z: number; roomM: number; besides?: readonly (readonly number[])[] },
): [number, number] {
  const inTheWay = [
    ...asUsed(room, active)
      .furnishings.filter((p) => heightOf(p, kinds) > LOW_M)
      .map((p) => footprintOf(p)),
    ...standing(active)
      .filter(({ at }) => !besides.some((b) => b[0] === at[0] && b[1] === at[1]))
      .map((s) => square(s.at, s.roomM)),
  ]
  const legal = (p: PointM) => mayBe(asUsed(room, active), kinds, p, z)
  const isFree = (p: PointM) => legal(p) && inTheWay.every((o) => apart(square(p, roomM), o))
  for (const isGood of [isFree, legal]) for (const p of outwards(room, from)) if (isGood(p)) return p
  return [from[0], from[1]]
}

/** Places about one, nearest first. */
function* outwards(room: RoomDoc, [x, y]: readonly number[]): Generator<[number, number]> {
  const plan = room.shape.plan as Plan
  const most = Math.max(...plan.map((p) => Math.hypot(p[0] - x!, p[1] - y!)))
  yield rounded([x!, y!])
  for (let r = STEP_M; r <= most; r += STEP_M)
    for (let k = 0, n = Math.max(Math.round((2 * Math.PI * r) / (2 * STEP_M)), 8); k < n; k += 1)
      yield rounded([x! + r * Math.cos((2 * Math.PI * k) / n), y! + r * Math.sin((2 * Math.PI * k) / n)])
}

const rounded = ([x, y]: PointM): [number, number] => [Math.round(x * 100) / 100, Math.round(y * 100) / 100]

/**
 * Where something so large goes on a wall: beside openings and what hangs, not behind high furniture, under the ceiling;
 * a door where its leaf has room. The emptiest wall first. Null where no wall has room.
 */
export function freeOnWall(
  room: RoomDoc,
  active: Arrangement,
  kinds: FurnishingKinds,
  wanted: Omit<OnWall, 'surface' | 'x_m'>,
  swings = false,
): Pick<OnWall, 'surface' | 'x_m'> | null {
  const plan = room.shape.plan as Plan
  const walls = wallsOf(room)
  const used = asUsed(room, active)
  const people = taken(room, active)
  const hangs: readonly OnWall[] = [...used.openings, ...used.covers, ...active.treatments]
  const order = walls
    .map((wall, i) => ({
      wall,
      length: lengthOf(plan, i),
      bare: lengthOf(plan, i) - used.openings.reduce((sum, o) => sum + (o.surface === wall.name ? o.width_m : 0), 0),
      hasOne: used.openings.some((o) => o.surface === wall.name),
    }))
    .sort((a, b) => Number(a.hasOne) - Number(b.hasOne) || b.bare - a.bare)
  for (const { wall, length } of order) {
    const spare = length - wanted.width_m
    const steps = Math.floor(spare / STEP_M)
    // a window in the middle of its wall; a door, and what else there is, where it finds room from the first corner on
    const wished = swings ? 0.05 : spare / 2
    const xs = Array.from({ length: Math.max(steps + 1, 0) }, (_, k) => k * STEP_M).sort(
      (a, b) => Math.abs(a - wished) - Math.abs(b - wished),
    )
    for (const x_m of xs) {
      const overlaps = (o: OnWall) =>
        o.surface === wall.name &&
        Math.min(x_m + wanted.width_m, o.x_m + o.width_m) - Math.max(x_m, o.x_m) > CLEAR_M &&
        Math.min(wanted.z_m + wanted.height_m, o.z_m + o.height_m) - Math.max(wanted.z_m, o.z_m) > CLEAR_M
      const strip = before(wall, x_m, wanted.width_m, swings ? wanted.width_m : 0.25)
      const hidden = used.furnishings.some(
        (p) => (swings || heightOf(p, kinds) > wanted.z_m) && !apart(footprintOf(p), strip),
      )
      const inTheWay = swings && people.some((o) => !apart(o, strip))
      const over = [x_m, x_m + wanted.width_m / 2, x_m + wanted.width_m].every(
        (s) => ceilingAt(room.shape.ceiling, onWall(wall, s, 0.01)) >= wanted.z_m + wanted.height_m - 1e-6,
      )
      if (over && !hidden && !inTheWay && !hangs.some(overlaps))
        return { surface: wall.name, x_m: Math.round(x_m * 100) / 100 }
    }
  }
  return null
}
