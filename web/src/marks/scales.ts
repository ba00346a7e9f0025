import type { Forecast, MarkKey, Measured } from '../api/client'

/** Ends of each string, the better end last: the better direction is always to the right. */
export const ENDS: Record<MarkKey, readonly [worse: number, better: number]> = {
  bounce: [-4, 24],
  boom: [1.2, 0.1],
  hush: [20, 66],
  touch: [-30, 0],
}
export const ORDER: readonly MarkKey[] = ['bounce', 'boom', 'hush', 'touch']
export const DIGITS: Record<MarkKey, number> = { bounce: 1, boom: 2, hush: 0, touch: 0 }

/** Place of a value on its string, 0 to 1, kept on the string. */
export function along(mark: MarkKey, value: number): number {
  const [worse, better] = ENDS[mark]
  return Math.min(Math.max((value - worse) / (better - worse), 0), 1)
}

export const figure = (mark: MarkKey, value: number) => value.toFixed(DIGITS[mark]).replace('-', '−')

/** Stretch of the string that is wanted, as two places. */
export function wantedStretch(mark: MarkKey, wanted: { low?: number | null; high?: number | null }): [number, number] {
  const ends = ENDS[mark]
  const [low, high] = [Math.min(...ends), Math.max(...ends)]
  const a = along(mark, wanted.low ?? low)
  const b = along(mark, wanted.high ?? high)
  return a < b ? [a, b] : [b, a]
}

/** The loudest peak that the arrangement would give, from the last take and how much the distance changed. */
export function predictedPeak(
  measured: Measured | undefined,
  active: Forecast,
  standing: Forecast | null,
): number | null {
  const take = measured?.touch
  if (!take || take.stale) return null
  if (!standing) return take.value
  return take.value + 20 * Math.log10(standing.marks.touch.distance_m / active.marks.touch.distance_m)
}
