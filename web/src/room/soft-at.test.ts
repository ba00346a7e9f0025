import { describe, expect, it } from 'vitest'
import type { Forecast, RoomDoc } from '../api/client'
import { TRYING, withTrying } from '../state/trying'
import { nameOfNote } from '../plots/notes'
import { treatmentAt } from './soft-at'

const room = {
  shape: {
    plan: [
      [0, 0],
      [4, 0],
      [4, 3],
      [0, 3],
    ],
    ceiling: { kind: 'flat', height_m: 2.4, drops: [] },
  },
  openings: [{ kind: 'window', surface: 'wall-3', x_m: 1, z_m: 0.8, width_m: 1, height_m: 1.2 }],
  arrangements: [{ id: 'as-is', name: 'As it is', treatments: [] }],
} as unknown as RoomDoc
type Path = Forecast['paths'][number]
const path = (surface: string, at: [number, number, number]) =>
  ({ order: 1, surfaces: [surface], points: [at], where: surface }) as unknown as Path
const tried = (document: RoomDoc) => document.arrangements.find((a) => a.id === TRYING)
const softAt = (document: RoomDoc, { surfaces, points }: Path) => {
  const treatment = treatmentAt(document, surfaces[0]!, points[0]!)
  return treatment
    ? withTrying(document, { kind: 'reflection', title: 'soft', edits: [{ do: 'hang', treatment }] })
    : document
}

describe('something soft where a reflection lands', () => {
  it('is a panel on a bare wall, centred on the spot', () => {
    const [panel] = tried(softAt(room, path('wall-2', [4, 1.5, 1.5])))!.treatments
    expect(panel).toMatchObject({ kind: 'panel', surface: 'wall-2', width_m: 0.6 })
    expect(panel!.x_m + 0.3).toBeCloseTo(1.5)
  })
  it('is a curtain across a window, which must open', () => {
    // wall 3 runs from x = 4 to 0: its window lies between x = 2 and 3
    expect(tried(softAt(room, path('wall-3', [2.5, 3, 1.4])))!.treatments[0]!.kind).toBe('curtain')
  })
  it('is a rug on the floor', () => {
    expect(tried(softAt(room, path('floor', [2, 1.5, 0])))!.treatments[0]).toMatchObject({
      kind: 'rug',
      surface: 'floor',
    })
  })
  it('takes the place of what was tried before and leaves what stands alone', () => {
    const twice = softAt(softAt(room, path('wall-2', [4, 1, 1.5])), path('wall-4', [0, 1, 1.5]))
    expect(twice.arrangements.filter((a) => a.id === TRYING)).toHaveLength(1)
    expect(twice.arrangements[0]!.treatments).toEqual([])
  })
  it('is nothing on a surface that cannot carry it', () => {
    expect(softAt(room, path('wardrobe', [1, 1, 1]))).toBe(room)
  })
})

describe('the names of notes', () => {
  it.each([
    [440, 'A4'],
    [261.63, 'C4'],
    [27.5, 'A0'],
    [98, 'G2'],
  ])('%f Hz is %s', (hz, name) => {
    expect(nameOfNote(hz)).toBe(name)
  })
})
