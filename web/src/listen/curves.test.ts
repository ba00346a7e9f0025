import { expect, test } from 'vitest'
import { differences, meanAndSpread, valueAt } from './curves'

const a = [
  [100, 1],
  [200, 3],
  [400, null],
] as const
const b = [
  [100, 2],
  [400, 6],
] as const

test('between two points a curve runs straight over the logarithm of pitch', () => {
  expect(valueAt(b, 200)).toBeCloseTo(4, 9)
  expect(valueAt(b, 50)).toBeNull()
  expect(valueAt(a, 300)).toBeNull() // beside a hole
})

test('differences are taken from the first, and a hole stays a hole', () => {
  expect(differences([[...a], [...b]])).toEqual([
    [
      [100, 1],
      [200, 1],
      [400, null],
    ],
  ])
})

test('mean and spread of two curves', () => {
  const [mean, above, below] = meanAndSpread([[[100, 1]], [[100, 3]]])
  expect(mean).toEqual([[100, 2]])
  expect(above[0]![1]).toBeCloseTo(2 + Math.SQRT2, 9)
  expect(below[0]![1]).toBeCloseTo(2 - Math.SQRT2, 9)
})
