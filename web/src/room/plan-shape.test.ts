import { describe, expect, it } from 'vitest'
import {
  areaOf,
  ceilingAt,
  cornerMoved,
  inside,
  lengthOf,
  planTrouble,
  TEMPLATES,
  templatePlan,
  wallMoved,
  wallSized,
  type Plan,
} from './plan-shape'

const box: Plan = [
  [0, 0],
  [4, 0],
  [4, 3],
  [0, 3],
]

describe('a plan', () => {
  it.each(TEMPLATES.map((t) => t.key))('%s: stands, runs anticlockwise and keeps its size', (kind) => {
    const plan = templatePlan(kind, 4, 3)
    expect(planTrouble(plan)).toBeNull()
    expect(areaOf(plan)).toBeGreaterThan(2)
    expect(Math.max(...plan.map((p) => p[0]))).toBe(4)
  })
  it('is refused when its walls cross, turn round or vanish', () => {
    expect(
      planTrouble([
        [0, 0],
        [4, 3],
        [4, 0],
        [0, 3],
      ]),
    ).toMatch(/cross|inside out/)
    expect(planTrouble([...box].reverse())).toMatch(/inside out/)
    expect(
      planTrouble([
        [0, 0],
        [0.01, 0],
        [4, 0],
        [4, 3],
        [0, 3],
      ]),
    ).toMatch(/shorter than 5 cm/)
  })
  it('grows by a wall moved out by 20 cm: area plus length times way', () => {
    const grown = wallMoved(box, 1, -0.2)
    expect(areaOf(grown)).toBeCloseTo(12 + 3 * 0.2)
    expect(lengthOf(grown, 0)).toBeCloseTo(4.2)
  })
  it('takes a typed length and stays square', () => {
    const sized = wallSized(box, 0, 3.62)
    expect(sized).toEqual([
      [0, 0],
      [3.62, 0],
      [3.62, 3],
      [0, 3],
    ])
    const ell = templatePlan('L', 4, 3)
    const narrower = wallSized(ell, 1, 1)
    expect(lengthOf(narrower, 1)).toBeCloseTo(1)
    expect(planTrouble(narrower)).toBeNull()
  })
  it('snaps a corner to the line of another one', () => {
    expect(cornerMoved(box, 2, [4.03, 2.51])[2]).toEqual([4, 2.51])
  })
  it('knows inside from outside in an L', () => {
    const ell = templatePlan('L', 4, 3)
    expect(inside(ell, [1, 2.5])).toBe(true)
    expect(inside(ell, [3.5, 2.5])).toBe(false)
  })
  it('knows the height under a slope and under a dropped part', () => {
    const slope = {
      kind: 'pitched' as const,
      along: 'y' as const,
      profile: [
        [0, 1],
        [3, 2.5],
      ] as [number, number][],
      drops: [],
    }
    expect(ceilingAt(slope, [1, 1.5])).toBeCloseTo(1.75)
    const flat = {
      kind: 'flat' as const,
      height_m: 2.4,
      drops: [{ x_m: 1, y_m: 1, width_m: 1, depth_m: 1, height_m: 2 }],
    }
    expect(ceilingAt(flat, [1.5, 1.5])).toBe(2)
    expect(ceilingAt(flat, [0.5, 1.5])).toBe(2.4)
  })
})
