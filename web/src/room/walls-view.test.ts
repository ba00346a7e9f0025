import { describe, expect, it } from 'vitest'
import type { Forecast, RoomDoc } from '../api/client'
import { rowsOf, slid } from './walls-view'

type Face = Forecast['shape']['faces'][number]
const wall = (name: string, long: number, high = 2.4) =>
  ({
    name,
    kind: 'wall',
    outline: [
      [0, 0],
      [long, 0],
      [long, high],
      [0, high],
    ],
  }) as unknown as Face

describe('unfolded walls', () => {
  const walls = [wall('wall-1', 4), wall('wall-2', 3), wall('wall-3', 4), wall('wall-4', 3)]
  it.each([
    [800, 400],
    [390, 300],
    [1200, 260],
  ])('in %i by %i px: all fit, in order, each once', (w, h) => {
    const { rows, pxPerM } = rowsOf(walls, w, h)
    expect(rows.flatMap((r) => r.faces.map((f) => f.name))).toEqual(walls.map((f) => f.name))
    for (const row of rows) expect(row.width * pxPerM).toBeLessThanOrEqual(w)
    expect(rows.reduce((sum, r) => sum + r.height * pxPerM, 0)).toBeLessThan(h)
  })
  it('takes as many rows as show them largest', () => {
    expect(rowsOf(walls, 1600, 200).rows).toHaveLength(1)
    expect(rowsOf(walls, 500, 500).rows.length).toBeGreaterThan(1)
  })
})

describe('a panel slid along its wall', () => {
  const document = {
    openings: [{ kind: 'window', surface: 'wall-1', x_m: 2, z_m: 1, width_m: 1, height_m: 1 }],
  } as unknown as RoomDoc
  const panel = { kind: 'panel', surface: 'wall-1', x_m: 0.5, z_m: 0.8, width_m: 0.6, height_m: 1.2 }
  it('goes where it is put, to the centimetre', () => {
    expect(slid(panel, [0.303, -0.2], wall('wall-1', 4), document)).toEqual({ x_m: 0.8, z_m: 0.6 })
  })
  it('stops at the ends of its wall and under the ceiling', () => {
    expect(slid(panel, [-3, 3], wall('wall-1', 4), document)).toEqual({ x_m: 0, z_m: 1.2 })
  })
  it('stays where it was rather than hang across a window, but a curtain may', () => {
    expect(slid(panel, [1.2, 0], wall('wall-1', 4), document)).toEqual({ x_m: 0.5, z_m: 0.8 })
    expect(slid({ ...panel, kind: 'curtain' }, [1.2, 0], wall('wall-1', 4), document)).toEqual({ x_m: 1.7, z_m: 0.8 })
  })
})
