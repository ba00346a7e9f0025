import { describe, expect, it } from 'vitest'
import type { RoomDoc } from '../api/client'
import { aRoom } from '../testing/served'
import { freeFloor, freeOnWall, freeSpot, mayBe, pieceMayStand, stoodIn } from './floor'
import { footprintOf, inside } from './plan-shape'

const KINDS = {
  bed: { name: 'bed', size_m: [2, 1.4, 0.5], body: [0, 1] },
  wardrobe: { name: 'wardrobe', size_m: [0.8, 0.55, 1.95], body: [0, 1] },
  desk: { name: 'desk', size_m: [1.2, 0.6, 0.74], body: [0.9, 1] },
} as const
const piece = (kind: keyof typeof KINDS, at: [number, number] = [0, 0]): RoomDoc['furnishings'][number] => ({
  kind,
  at,
  size_m: [...KINDS[kind].size_m] as [number, number, number],
  turn_deg: 0,
  open: false,
  fullness: 0.7,
})

function boxRoom(): RoomDoc {
  const room = aRoom().document
  const [standing] = room.arrangements
  return {
    ...room,
    shape: {
      ...room.shape,
      plan: [
        [0, 0],
        [3.2, 0],
        [3.2, 2.6],
        [0, 2.6],
      ],
      ceiling: { kind: 'flat', height_m: 2.4, drops: [] },
    },
    openings: [],
    furnishings: [],
    covers: [],
    arrangements: [
      {
        ...standing!,
        performer: { ...standing!.performer, at: [1.86, 1.43, 1.5] },
        microphone: { ...standing!.microphone, at: [1.46, 1.43, 1.4] },
        opened: [],
        moved: [],
        monitors: [],
        treatments: [],
        screens: [],
      },
    ],
  } as RoomDoc
}

describe('new things', () => {
  it('land at walls, clear of each other and of everybody, however many come', () => {
    let room = boxRoom()
    for (const kind of ['bed', 'wardrobe', 'desk', 'wardrobe'] as const) {
      const placed = freeFloor(room, room.arrangements[0]!, KINDS, piece(kind))
      const outline = footprintOf(placed)
      for (const who of [room.arrangements[0]!.performer, room.arrangements[0]!.microphone])
        expect(inside(outline, [who.at[0], who.at[1]])).toBe(false)
      for (const other of room.furnishings)
        expect(outline.some((q) => inside(footprintOf(other), [q[0], q[1]]))).toBe(false)
      expect(outline.every(([x, y]) => x >= 0 && x <= 3.2 && y >= 0 && y <= 2.6)).toBe(true)
      room = { ...room, furnishings: [...room.furnishings, placed] }
    }
  })
  it('in walls find a stretch of their own', () => {
    const room = boxRoom()
    const door = { z_m: 0, width_m: 0.78, height_m: 2 }
    const first = freeOnWall(room, room.arrangements[0]!, KINDS, door, true)!
    const openings = [{ kind: 'door', ...door, ...first }] as RoomDoc['openings']
    const second = freeOnWall({ ...room, openings }, room.arrangements[0]!, KINDS, door, true)!
    expect(second.surface === first.surface && Math.abs(second.x_m - first.x_m) < 0.78).toBe(false)
    expect(freeOnWall(room, room.arrangements[0]!, KINDS, { ...door, width_m: 9 })).toBeNull()
  })
})

describe('what may be', () => {
  const room = { ...boxRoom(), furnishings: [piece('wardrobe', [1, 1])] }
  it('is what the server keeps: in front of, not inside, and over what is low', () => {
    expect(mayBe(room, KINDS, [1, 1], 1.5)).toBe(false)
    expect(mayBe(room, KINDS, [1, 1], 2.1)).toBe(true)
    expect(mayBe(room, KINDS, [-0.1, 1], 1.5)).toBe(false)
    expect(pieceMayStand(room, KINDS, piece('wardrobe', [1.86, 1.43]))).toBe(false)
    expect(pieceMayStand(room, KINDS, piece('bed', [1.86, 1.3]))).toBe(true) // the mouth is over it
  })
  it('tells who stands in a bed, and a free spot beside it', () => {
    const lying = { ...boxRoom(), furnishings: [piece('bed', [1.86, 1.3])] }
    const [standing] = lying.arrangements
    expect(stoodIn(lying, standing!, KINDS)?.kind).toBe('bed')
    const spot = freeSpot(lying, standing!, KINDS, [1.86, 1.43], {
      z: 1.5,
      roomM: 0.5,
      besides: [standing!.performer.at],
    })
    expect(inside(footprintOf(lying.furnishings[0]!), spot)).toBe(false)
  })
})
