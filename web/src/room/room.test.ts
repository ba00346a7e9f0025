import { describe, expect, it } from 'vitest'
import { fitted, onWall, overlap, toM, toPx, type Wall } from './geometry'
import { placeLabels } from './labels'

const extent = { minX: 0, minY: 0, maxX: 3.62, maxY: 2.84 }

describe('the plan', () => {
  it('goes from metres to pixels and back', () => {
    const view = fitted(extent, 780, 470)
    const [x, y] = toM(toPx([1.23, 2.1], view), view)
    expect(x).toBeCloseTo(1.23)
    expect(y).toBeCloseTo(2.1)
  })
  it('fits the whole room with its walls on the sheet', () => {
    for (const [w, h] of [
      [780, 470],
      [390, 300],
      [1200, 500],
    ] as const) {
      const view = fitted(extent, w, h)
      const [left, bottom] = toPx([0, 0], view)
      const [right, top] = toPx([3.62, 2.84], view)
      expect(left).toBeGreaterThan(15)
      expect(top).toBeGreaterThan(15)
      expect(right).toBeLessThan(w - 15)
      expect(bottom).toBeLessThan(h - 15)
    }
  })
  it('measures along a wall from its first corner and into the room', () => {
    const top: Wall = { name: 'wall-3', from: [3.62, 2.84], to: [0, 2.84], outward: [0, 1] }
    expect(onWall(top, 1, 0.1)).toEqual([expect.closeTo(2.62), expect.closeTo(2.74)])
  })
})

describe('labels', () => {
  const sheet = { x: 0, y: 0, w: 400, h: 300 }
  it('cover neither obstacles nor each other', () => {
    const wishes = Array.from({ length: 8 }, (_, i) => ({
      key: String(i),
      text: '5.4 ms −22 dB',
      at: [150 + i * 6, 140 + i * 5] as const,
      size: 12,
      weight: -i,
    }))
    const obstacle = { x: 160, y: 100, w: 60, h: 40 }
    const shown = placeLabels(wishes, [obstacle], sheet).filter((label) => label.shown)
    expect(shown.length).toBeGreaterThanOrEqual(3)
    for (const [i, one] of shown.entries()) {
      expect(overlap(one.box, obstacle)).toBeLessThan(0.3 * one.box.w * one.box.h)
      for (const other of shown.slice(i + 1))
        expect(overlap(one.box, other.box)).toBeLessThan(0.3 * one.box.w * one.box.h)
    }
  })
  it('leave out what finds no place', () => {
    const everywhere = { x: -50, y: -50, w: 600, h: 500 }
    const [label] = placeLabels([{ key: 'a', text: 'text', at: [50, 50], size: 12, weight: 0 }], [everywhere], sheet)
    expect(label!.shown).toBe(false)
  })
})
