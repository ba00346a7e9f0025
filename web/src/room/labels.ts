import { overlap, type PointPx, type RectPx } from './geometry'

export type Wish = { key: string; text: string; at: PointPx; size: number; weight: number }
export type Placed = Wish & { x: number; y: number; shown: boolean; box: RectPx; leader: [PointPx, PointPx] | null }

const PADDING = 3
const HIGH_EM = 1.15
/** From here on a line leads from the label to its point. [px] */
const NEAR_PX = 24
const RINGS_PX = [13, 20, 30, 44, 62, 84, 110, 140]
const ANGLES = Array.from({ length: 24 }, (_, i) => (i * Math.PI) / 12)

let pen: CanvasRenderingContext2D | null | undefined

/** Width of a text as it will be drawn; where nothing can draw, 0.56 em a letter. [px] */
export function widthOf(text: string, size: number): number {
  if (pen === undefined) pen = globalThis.document?.createElement('canvas').getContext?.('2d') ?? null
  if (!pen) return text.length * size * 0.56
  pen.font = `600 ${size}px ${getComputedStyle(document.body).fontFamily || 'sans-serif'}`
  return pen.measureText(text).width
}

const covers = (box: RectPx, others: readonly RectPx[]) => others.some((other) => overlap(box, other) > 0)

/**
 * Places labels so that they lie on no obstacle, no line and not on each other, beside their points or, when there is
 * no room, further off with a leader. The weightiest come first; one that finds no free place at all is left out.
 */
export function placeLabels(
  wishes: readonly Wish[],
  obstacles: readonly RectPx[],
  page: RectPx,
  lines: readonly RectPx[] = [],
): Placed[] {
  const taken = [...obstacles, ...lines]
  return [...wishes]
    .sort((a, b) => b.weight - a.weight)
    .map((wish) => {
      const w = widthOf(wish.text, wish.size)
      const h = wish.size * HIGH_EM
      const box = freeBox(wish.at, w + 2 * PADDING, h + 2 * PADDING, taken, page)
      if (!box) return { ...wish, x: 0, y: 0, shown: false, box: { x: 0, y: 0, w: 0, h: 0 }, leader: null }
      taken.push(box)
      return {
        ...wish,
        x: box.x + PADDING,
        y: box.y + PADDING + h * 0.78,
        shown: true,
        box,
        leader: leaderOf(wish.at, box),
      }
    })
}

/** The nearest free place around a point, straight beside it before aslant, or null. */
function freeBox(at: PointPx, w: number, h: number, taken: readonly RectPx[], page: RectPx): RectPx | null {
  for (const ring of RINGS_PX) {
    let best: { box: RectPx; cost: number } | null = null
    for (const angle of ANGLES) {
      const [dx, dy] = [Math.cos(angle), Math.sin(angle)]
      // the box touches the ring with the side or corner that is nearest to the point
      const box = {
        x: at[0] + dx * ring + (dx > 0.3 ? 0 : dx < -0.3 ? -w : -w / 2),
        y: at[1] + dy * ring + (dy > 0.3 ? 0 : dy < -0.3 ? -h : -h / 2),
        w,
        h,
      }
      const inside = box.x >= page.x && box.y >= page.y && box.x + w <= page.x + page.w && box.y + h <= page.y + page.h
      if (!inside || covers(box, taken)) continue
      const cost = Math.abs(dy)
      if (best === null || cost < best.cost) best = { box, cost }
    }
    if (best) return best.box
  }
  return null
}

function leaderOf(at: PointPx, box: RectPx): [PointPx, PointPx] | null {
  const x = Math.min(Math.max(at[0], box.x), box.x + box.w)
  const y = Math.min(Math.max(at[1], box.y), box.y + box.h)
  const away = Math.hypot(x - at[0], y - at[1])
  if (away < NEAR_PX) return null
  // from the ring about the point to the label
  return [
    [at[0] + ((x - at[0]) * 7) / away, at[1] + ((y - at[1]) * 7) / away],
    [x, y],
  ]
}

const BEAD_PX = 8

/** A line as a string of small boxes, for keeping labels off it. */
export function alongLine(points: readonly PointPx[], thick = BEAD_PX): RectPx[] {
  return points.slice(1).flatMap((end, i) => {
    const start = points[i]!
    const count = Math.max(Math.ceil(Math.hypot(end[0] - start[0], end[1] - start[1]) / BEAD_PX), 1)
    return Array.from({ length: count + 1 }, (_, k) => ({
      x: start[0] + ((end[0] - start[0]) * k) / count - thick / 2,
      y: start[1] + ((end[1] - start[1]) * k) / count - thick / 2,
      w: thick,
      h: thick,
    }))
  })
}

/** The drawn walls as boxes: along each edge, as thick as they are drawn, on its outer side. */
export function wallBoxes(plan: readonly PointPx[], thick: number): RectPx[] {
  return plan.flatMap((from, i) => {
    const to = plan[(i + 1) % plan.length]!
    const long = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1
    // plans run anticlockwise and the screen's y points down: outwards is to the right of each edge
    const out = [-(to[1] - from[1]) / long, (to[0] - from[0]) / long] as const
    const half = thick / 2
    const middle = ([x, y]: PointPx): PointPx => [x + out[0] * half, y + out[1] * half]
    return alongLine([middle(from), middle(to)], thick + 2)
  })
}
