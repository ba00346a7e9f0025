/** A stretch of a take. [s] */
export type Span = readonly [fromS: number, toS: number]

const LEAST_S = 0.05

/** Zoomed about a moment, kept inside the take. */
export function zoomed([from, to]: Span, factor: number, aboutS: number, seconds: number): Span {
  const length = Math.min(Math.max((to - from) * factor, LEAST_S), seconds)
  const share = (aboutS - from) / (to - from)
  return inside(aboutS - share * length, length, seconds)
}

/** Moved by a share of its own length. */
export const moved = ([from, to]: Span, share: number, seconds: number): Span =>
  inside(from + share * (to - from), to - from, seconds)

/** Shown about a moment: as it is when it shows it well, else moved there. */
export function showing(span: Span, atS: number, seconds: number): Span {
  const length = span[1] - span[0]
  return atS > span[0] + 0.05 * length && atS < span[1] - 0.05 * length
    ? span
    : inside(atS - length / 2, length, seconds)
}

function inside(from: number, length: number, seconds: number): Span {
  const start = Math.min(Math.max(from, 0), Math.max(seconds - length, 0))
  return [start, Math.min(start + length, seconds)]
}

/** The finding after or before a moment, round again at the ends; null without any. */
export function beside(starts: readonly number[], atS: number, way: 1 | -1): number | null {
  const order = [...starts].sort((a, b) => a - b)
  if (order.length === 0) return null
  return way > 0
    ? (order.find((s) => s > atS + 0.02) ?? order[0]!)
    : (order.findLast((s) => s < atS - 0.02) ?? order.at(-1)!)
}

export const clock = (s: number) => `${Math.floor(s / 60)}:${(s % 60).toFixed(1).padStart(4, '0')}`
