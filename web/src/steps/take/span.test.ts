import { expect, test } from 'vitest'
import { beside, clock, moved, showing, ticks, zoomed } from './span'

test('zooming keeps the moment under the pointer where it is', () => {
  const [from, to] = zoomed([0, 20], 0.5, 5, 20)
  expect([from, to]).toEqual([2.5, 12.5])
  expect((5 - from) / (to - from)).toBeCloseTo(5 / 20)
})

test('nothing goes beyond the take, however far it is zoomed out or moved', () => {
  expect(zoomed([4, 6], 100, 5, 20)).toEqual([0, 20])
  expect(moved([15, 20], 1, 20)).toEqual([15, 20])
  expect(moved([0, 5], -2, 20)).toEqual([0, 5])
})

test('a finding out of sight is brought into the middle, one in sight moves nothing', () => {
  expect(showing([0, 4], 10, 20)).toEqual([8, 12])
  expect(showing([0, 4], 2, 20)).toEqual([0, 4])
})

test('the next finding after the last is the first', () => {
  expect(beside([3, 1, 2], 2, 1)).toBe(3)
  expect(beside([3, 1, 2], 3, 1)).toBe(1)
  expect(beside([3, 1, 2], 1, -1)).toBe(3)
  expect(beside([], 1, 1)).toBeNull()
})

test('a moment just before a full minute is that minute, and hours are told as hours', () => {
  expect(clock(299.998)).toBe('5:00.0')
  expect(clock(7.25)).toBe('0:07.3')
  expect(clock(7199.0)).toBe('1:59:59.0')
})

test('a scale tells seconds of what is short and minutes of what is long', () => {
  expect(ticks([0, 20]).map((t) => t.name)).toEqual(['5 s', '10 s', '15 s'])
  expect(ticks([0, 7199]).map((t) => t.name)).toEqual([
    '15 min',
    '30 min',
    '45 min',
    '60 min',
    '75 min',
    '90 min',
    '105 min',
  ])
  expect(ticks([600, 640]).map((t) => t.name)[0]).toBe('10:05')
})
