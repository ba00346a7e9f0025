import { describe, expect, it } from 'vitest'
import { clock } from '../../ui/clock'
import { stretches } from './day-ribbon'

describe('the day', () => {
  it('cuts what runs over midnight in two, and takes no hours as always', () => {
    expect(stretches([])).toEqual([[0, 24]])
    expect(stretches([[5, 0.67]])).toEqual([
      [5, 24],
      [0, 0.67],
    ])
    expect(stretches([[3.5, 10.5]])).toEqual([[3.5, 10.5]])
  })
  it('tells hours as a clock does', () => {
    expect([0, 9.5, 10.75, 23.999, 0.67].map(clock)).toEqual(['00:00', '09:30', '10:45', '00:00', '00:40'])
  })
})
