import { describe, expect, it } from 'vitest'
import type { Treatment } from '../api/client'
import { anArrangement, aRoom } from '../testing/served'
import { listeningAxis, mirrored } from './mirrored'

// 4 x 3 m; the performer at (1, 1.5) looks along x at the microphone
const room = aRoom().document
const piece = (surface: string, x_m: number): Treatment =>
  ({ kind: 'panel', surface, x_m, z_m: 1, width_m: 0.6, height_m: 1.2 }) as Treatment

describe('a piece mirrored about the listening axis', () => {
  it('hangs on the wall opposite at the same place along the room', () => {
    // wall 1 runs along y = 0 from x = 0; wall 3 along y = 3 from x = 4
    expect(mirrored(room, anArrangement(), piece('wall-1', 1))).toMatchObject({ surface: 'wall-3', x_m: 2.4, z_m: 1 })
  })
  it('stays on the same wall where the axis meets it, on the other side', () => {
    // wall 2 runs along x = 4 from y = 0: 0.3..0.9 becomes 2.1..2.7
    expect(mirrored(room, anArrangement(), piece('wall-2', 0.3))).toMatchObject({ surface: 'wall-2', x_m: 2.1 })
  })
  it('is nothing new where it lies on the axis, or not on a wall', () => {
    expect(mirrored(room, anArrangement(), piece('wall-2', 1.2))).toBeNull()
    expect(mirrored(room, anArrangement(), piece('floor', 1))).toBeNull()
  })
  it('takes monitors and chair for the axis where there are any', () => {
    const ears = anArrangement({
      listener: { at: [2, 1, 1.2], faces_deg: 90 },
      monitors: [
        { at: [1.5, 2.5, 1.2], faces_deg: 290 },
        { at: [2.5, 2.5, 1.2], faces_deg: 250 },
      ],
    } as never)
    expect(listeningAxis(ears).ahead[0]).toBeCloseTo(0)
    // about x = 2: wall 4 runs along x = 0 downwards from y = 3, wall 2 along x = 4 upwards
    expect(mirrored(room, ears, piece('wall-2', 0.5))).toMatchObject({ surface: 'wall-4', x_m: 1.9 })
  })
})
