import { describe, expect, it } from 'vitest'
import { byLuck, newTrials, right, verdictOf } from './blind'

describe('comparing blind', () => {
  it('knows the binomial’s tail', () => {
    expect(byLuck(0, 10)).toBeCloseTo(1, 12)
    expect(byLuck(10, 10)).toBeCloseTo(1 / 1024, 12)
    expect(byLuck(8, 10)).toBeCloseTo(56 / 1024, 12) // 45 + 10 + 1
    expect(byLuck(12, 16)).toBeCloseTo(2517 / 65536, 12) // 1820 + 560 + 120 + 16 + 1
  })
  it('plays as many of the one as of the other, in an order of its own', () => {
    const trials = newTrials(12)
    expect(trials.filter((t) => t.isA)).toHaveLength(6)
    expect(trials.every((t) => t.said === null)).toBe(true)
    expect(newTrials(4, () => 0).map((t) => t.isA)).toEqual([false, true, false, true])
  })
  it('counts what was right and says what it means', () => {
    const trials = newTrials(10).map((t) => ({ ...t, said: t.isA ? ('a' as const) : ('b' as const) }))
    expect(right(trials)).toBe(10)
    expect(verdictOf(10, 10)).toContain('you do hear a difference')
    expect(verdictOf(6, 10)).toContain('no difference is proved')
  })
})
