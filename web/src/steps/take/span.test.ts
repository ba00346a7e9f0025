import { expect, test } from 'vitest'
import { beside, moved, showing, zoomed } from './span'

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
