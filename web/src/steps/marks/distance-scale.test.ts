import { describe, expect, it } from 'vitest'
import { type Distance, figureAt, tapeScale } from './distance-scale'

const curve = { distance_m: [0.1, 0.2, 0.4] } as Distance

describe('the tape of distances', () => {
  it('gives each doubling the same length', () => {
    const x = tapeScale([0.03, 2.5], 0, 100)
    expect(x(0.2) - x(0.1)).toBeCloseTo(x(0.8) - x(0.4), 9)
    expect(x.invert(x(0.37))).toBeCloseTo(0.37, 9)
  })
  it('reads halfway between two distances on their logarithm, and holes as holes', () => {
    expect(figureAt(curve, [12, 6, 0], Math.sqrt(0.02))).toBeCloseTo(9, 9)
    expect(figureAt(curve, [12, 6, 0], 0.2)).toBeCloseTo(6, 9)
    expect(figureAt(curve, [null, null, 0], 0.15)).toBeNull()
  })
})
