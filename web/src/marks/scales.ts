import type { MarkKey } from '../api/client'

/** Ends of each string, the better end last: the better direction is always to the right. */
export const ENDS: Record<MarkKey, readonly [worse: number, better: number]> = {
  bounce: [-4, 24],
  boom: [1.2, 0.1],
  hush: [20, 66],
  touch: [-30, 0],
}
export const ORDER: readonly MarkKey[] = ['bounce', 'boom', 'hush', 'touch']
export const NAMES: Record<MarkKey, string> = { bounce: 'Bounce', boom: 'Boom', hush: 'Hush', touch: 'Touch' }
export const UNITS: Record<MarkKey, string> = { bounce: 'dB', boom: 's', hush: 'dB', touch: 'dBFS' }
export const DIGITS: Record<MarkKey, number> = { bounce: 1, boom: 2, hush: 0, touch: 0 }

/** Place of a value on its string, 0 to 1, kept on the string. */
export function along(mark: MarkKey, value: number): number {
  const [worse, better] = ENDS[mark]
  return Math.min(Math.max((value - worse) / (better - worse), 0), 1)
}

/** A value with its digits and a true minus; what rounds to nothing has no sign. */
export const figure = (mark: MarkKey, value: number) =>
  value
    .toFixed(DIGITS[mark])
    .replace(/^-(0(\.0+)?)$/, '$1')
    .replace('-', '−')

/** Stretch of the string that is wanted, as two places. */
export function wantedStretch(mark: MarkKey, wanted: { low?: number | null; high?: number | null }): [number, number] {
  const ends = ENDS[mark]
  const [low, high] = [Math.min(...ends), Math.max(...ends)]
  const a = along(mark, wanted.low ?? low)
  const b = along(mark, wanted.high ?? high)
  return a < b ? [a, b] : [b, a]
}
