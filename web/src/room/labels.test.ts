import { describe, expect, it } from 'vitest'
import { overlap, type RectPx } from './geometry'
import { alongLine, placeLabels, wallBoxes } from './labels'

const page: RectPx = { x: 0, y: 0, w: 600, h: 400 }
const wish = (key: string, at: readonly [number, number], weight = 0) => ({
  key,
  text: '5.4 ms −22 dB',
  at,
  size: 12,
  weight,
})

describe('labels', () => {
  it('stand beside their point when there is room', () => {
    const [label] = placeLabels([wish('a', [300, 200])], [], page)
    expect(label!.shown).toBe(true)
    expect(label!.leader).toBeNull()
  })
  it('keep off a line and off each other, and are led to when they stand apart', () => {
    const line = alongLine([
      [0, 200],
      [600, 200],
    ])
    const crowd = Array.from({ length: 6 }, (_, i) => wish(String(i), [300 + i, 200], i))
    const shown = placeLabels(crowd, [], page, line).filter((l) => l.shown)
    expect(shown).toHaveLength(6)
    for (const [i, a] of shown.entries()) {
      expect(line.every((bead) => overlap(a.box, bead) === 0)).toBe(true)
      expect(shown.slice(i + 1).every((b) => overlap(a.box, b.box) === 0)).toBe(true)
    }
    expect(shown.some((l) => l.leader)).toBe(true)
  })
  it('leave the page to none', () => {
    const [label] = placeLabels([wish('a', [2, 2])], [], page)
    expect(label!.box.x).toBeGreaterThanOrEqual(0)
    expect(label!.box.y).toBeGreaterThanOrEqual(0)
  })
  it('take the drawn thickness of walls as taken, on the outer side', () => {
    // on the screen y points down: this runs anticlockwise as a plan does
    const boxes = wallBoxes(
      [
        [100, 300],
        [500, 300],
        [500, 100],
        [100, 100],
      ],
      15,
    )
    const covered = (x: number, y: number) => boxes.some((b) => x > b.x && x < b.x + b.w && y > b.y && y < b.y + b.h)
    expect(covered(300, 308)).toBe(true)
    expect(covered(300, 290)).toBe(false)
    expect(covered(508, 200)).toBe(true)
    expect(covered(92, 200)).toBe(true)
  })
})
