import { describe, expect, it } from 'vitest'
import { byLuck, newTrials, right, verdictOf } from './blind'

describe('comparing blind', () => {
  it('knows the binomial’s tail', () => {
    expect(byLuck(0, 10)).toBeCloseTo(1, 12)
    expect(byLuck(10, 10)).toBeCloseTo(1 / 1024, 12)
    expect(byLuck(8, 10)).toBeCloseTo(56 / 1024, 12) // 45 + 10 + 1
    expect(byLuck(12, 16)).toBeCloseTo(2517 / 65536, 12) // 1820 + 560 + 120 + 16 + 1
  })
  it('throws a coin for each trial, so that none can be counted out', () => {
    const coins = [0.1, 0.9, 0.2, 0.3, 0.4]
    expect(newTrials(5, () => coins.shift()!).map((t) => t.isA)).toEqual([true, false, true, true, true])
    expect(newTrials(12).every((t) => t.said === null)).toBe(true)
  })
  it('counts what was right and says what it means', () => {
    const trials = newTrials(10).map((t) => ({ ...t, said: t.isA ? ('a' as const) : ('b' as const) }))
    expect(right(trials)).toBe(10)
    expect(verdictOf(10, 10)).toContain('you do hear a difference')
    expect(verdictOf(6, 10)).toContain('no difference is proved')
  })
})
