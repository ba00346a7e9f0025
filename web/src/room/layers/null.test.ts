import { describe, expect, it } from 'vitest'
import { nullBearings } from './null'

describe('where a microphone hears nothing', () => {
  it.each([
    ['cardioid', 0.5, [180]],
    ['supercardioid', 0.37, [126, -126]],
    ['hypercardioid', 0.25, [109.5, -109.5]],
    ['figure-8', 0, [90, -90]],
    ['omni', 1, []],
    ['subcardioid', 0.7, []],
  ])('%s', (_, a, bearings) => {
    const found = nullBearings(a, 0, 0)
    expect(found).toHaveLength(bearings.length)
    found.forEach((deg, i) => expect(Math.abs(deg - bearings[i]!)).toBeLessThan(0.5))
  })
  it('a cardioid hardly tilted keeps it behind', () => {
    expect(nullBearings(0.5, 40, 3)).toEqual([220])
  })
  it('a cardioid tilted up has its null below, not on the plan', () => {
    expect(nullBearings(0.5, 40, 30)).toEqual([])
  })
  it('a figure-8 tilted keeps its sides', () => {
    expect(nullBearings(0, 40, 30)).toEqual([130, -50])
  })
})
