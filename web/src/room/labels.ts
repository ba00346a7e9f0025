import { overlap, type PointPx, type RectPx } from './geometry'

export type Wish = { key: string; text: string; at: PointPx; size: number; weight: number }
export type Placed = Wish & { x: number; y: number; shown: boolean; box: RectPx }

const PADDING = 3
/** A label across a pencil line can still be read, one across another label cannot. */
const LINE_COST = 0.22
/** Width of a text in the interface's face, near enough for placing: 0.52 em a letter. */
export const widthOf = (text: string, size: number) => text.length * size * 0.52

const AROUND = [
  [1, -1],
  [1, 1],
  [-1, -1],
  [-1, 1],
  [0, -1.6],
  [0, 1.6],
  [1.4, 0],
  [-1.4, 0],
  [1, -2.6],
  [-1, -2.6],
  [1, 2.6],
  [-1, 2.6],
] as const

/**
 * Places labels beside their points so that they cover neither obstacles nor each other.
 * The weightiest come first; one that finds no free place is left out rather than drawn over something.
 */
export function placeLabels(wishes: Wish[], obstacles: RectPx[], sheet: RectPx, lines: RectPx[] = []): Placed[] {
  const taken = [...obstacles]
  return [...wishes]
    .sort((a, b) => b.weight - a.weight)
    .map((wish) => {
      const w = widthOf(wish.text, wish.size)
      const h = wish.size * 1.15
      let best: { box: RectPx; cost: number } | null = null
      for (const [dx, dy] of AROUND) {
        const x = dx > 0.5 ? wish.at[0] + 9 : dx < -0.5 ? wish.at[0] - 9 - w : wish.at[0] - w / 2
        const y = wish.at[1] + dy * (h * 0.75) - h / 2
        const box = { x: x - PADDING, y: y - PADDING, w: w + 2 * PADDING, h: h + 2 * PADDING }
        const outside =
          box.x < sheet.x || box.y < sheet.y || box.x + box.w > sheet.x + sheet.w || box.y + box.h > sheet.y + sheet.h
        const cost =
          taken.reduce((sum, other) => sum + overlap(box, other), outside ? 1e5 : 0) +
          LINE_COST * lines.reduce((sum, other) => sum + overlap(box, other), 0) +
          Math.abs(dy) * 0.5
        if (best === null || cost < best.cost) best = { box, cost }
      }
      const shown = best !== null && best.cost < w * h * 0.24
      if (shown && best) taken.push(best.box)
      const box = best?.box ?? { x: 0, y: 0, w: 0, h: 0 }
      return { ...wish, x: box.x + PADDING, y: box.y + PADDING + h * 0.78, shown, box }
    })
}

const BEAD_PX = 9

/** A line as a string of small boxes, for keeping labels off it. */
export function alongLine(points: readonly PointPx[]): RectPx[] {
  return points.slice(1).flatMap((end, i) => {
    const start = points[i]!
    const count = Math.max(Math.round(Math.hypot(end[0] - start[0], end[1] - start[1]) / BEAD_PX), 1)
    return Array.from({ length: count }, (_, k) => ({
      x: start[0] + ((end[0] - start[0]) * k) / count - BEAD_PX / 2,
      y: start[1] + ((end[1] - start[1]) * k) / count - BEAD_PX / 2,
      w: BEAD_PX,
      h: BEAD_PX,
    }))
  })
}
