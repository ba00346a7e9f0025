import { describe, expect, it } from 'vitest'
import { clock } from '../../ui/clock'
import { beats, daySpans, readSpans, spanWords, spansText } from './calendar'
import { outside, runs } from './day-ribbon'

describe('the day', () => {
  it('cuts what runs over midnight in two, and takes no hours as always', () => {
    expect(daySpans({}, 2)).toEqual([[0, 24]])
    expect(daySpans({ hours: [[5, 0.67]] }, 2)).toEqual([
      [0, 0.67],
      [5, 24],
    ])
    expect(daySpans({ hours: [[3.5, 10.5]] }, 2)).toEqual([[3.5, 10.5]])
  })
  it('gives a night to the day it starts on, and a named day its own hours', () => {
    const bar = { hours: [[22, 2] as const], other_days: [{ weekdays: [6], hours: [] }] }
    expect(daySpans(bar, 6)).toEqual([[0, 2]])
    expect(daySpans(bar, 0)).toEqual([[22, 24]])
    expect(spanWords(daySpans({ other_days: [{ weekdays: [3], hours: [] }] }, 3))).toBe('not at all')
  })
  it('reads hours as people write them', () => {
    expect(readSpans('5:00 to 0:30, 14-16')).toEqual([
      [5, 0.5],
      [14, 16],
    ])
    expect(readSpans('always')).toEqual([])
    expect(readSpans('25 to 3')).toBeNull()
    expect(readSpans('now and then')).toBeNull()
    expect(spansText([[5, 0.5]])).toBe('05:00 to 00:30')
    expect(spansText(readSpans('8-24')!)).toBe('08:00 to 24:00')
  })
  it('draws a cycle only where it can be seen', () => {
    expect(beats({ period_min: 60, on_share: 0.5 }, [8, 10], 0.1)).toHaveLength(2)
    expect(beats({ period_min: 2, on_share: 0.5 }, [8, 10], 0.1)).toEqual([[8, 10]])
    expect(beats(null, [8, 10], 0.1)).toEqual([[8, 10]])
  })
  it('joins quarters that are alike and finds the hours outside', () => {
    expect(runs([1, 1, 0.5, null])).toEqual([
      { from: 0, to: 0.5, value: 1 },
      { from: 0.5, to: 0.75, value: 0.5 },
      { from: 0.75, to: 1, value: null },
    ])
    expect(outside([[8, 22]])).toEqual([
      [0, 8],
      [22, 24],
    ])
    expect(outside([[0, 24]])).toEqual([])
  })
  it('tells hours as a clock does', () => {
    expect([0, 9.5, 10.75, 23.999, 0.67].map(clock)).toEqual(['00:00', '09:30', '10:45', '00:00', '00:40'])
  })
})
