import { describe, expect, it } from 'vitest'
import type { MarkKey } from '../api/client'
import { along, ENDS, figure, ORDER, wantedStretch } from './scales'

describe('the strings', () => {
  it.each(ORDER)('%s gets better to the right and stays on its string', (mark: MarkKey) => {
    const [worse, better] = ENDS[mark]
    expect(along(mark, worse)).toBe(0)
    expect(along(mark, better)).toBe(1)
    expect(along(mark, better + 10 * (better - worse))).toBe(1)
    expect(along(mark, worse - 10 * (better - worse))).toBe(0)
  })
  it('run from long to short for ringing: shorter lies further right', () => {
    expect(along('boom', 0.3)).toBeGreaterThan(along('boom', 0.8))
  })
  it('show what is wanted as a stretch, open ends reaching the end of the string', () => {
    const [from, to] = wantedStretch('bounce', { low: 15, high: null })
    expect([from, to]).toEqual([along('bounce', 15), 1])
    const ring = wantedStretch('boom', { low: null, high: 0.3 })
    expect(ring[0]).toBeCloseTo(along('boom', 0.3))
    expect(ring[1]).toBe(1)
    const [low, high] = wantedStretch('touch', { low: -12, high: -6 })
    expect(low).toBeLessThan(high)
  })
  it('write figures with a true minus', () => {
    expect(figure('touch', -9.4)).toBe('−9')
    expect(figure('boom', 0.5)).toBe('0.50')
  })
})
