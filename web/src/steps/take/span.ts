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

/** A moment as minutes and seconds, and hours where there are some. */
export function clock(s: number): string {
  const tenths = Math.round(s * 10)
  const minutes = Math.floor(tenths / 600)
  const seconds = ((tenths % 600) / 10).toFixed(1).padStart(4, '0')
  if (minutes < 60) return `${minutes}:${seconds}`
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}:${seconds}`
}

const STEPS_S = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800] as const

/** Even moments along a stretch, in words: seconds of what is short, minutes of what is long. */
export function ticks([from, to]: Span): { s: number; name: string }[] {
  const step = STEPS_S.find((one) => one >= (to - from) / 9) ?? 1800
  const edge = 0.02 * (to - from)
  const first = Math.ceil((from + edge) / step)
  const count = Math.max(Math.ceil((to - edge) / step) - first, 0)
  return Array.from({ length: count }, (_, i) => {
    const s = (first + i) * step
    if (step >= 60) return { s, name: `${s / 60} min` }
    return { s, name: to > 120 ? clock(s).replace(/\.0$/, '') : `${Number(s.toFixed(2))} s` }
  })
}
