import { describe, expect, it } from 'vitest'
import type { ReadingSummary, RoomDoc } from '../api/client'
import { extentOf } from '../room/geometry'
import { pathsToShow } from '../room/path-lines'
import { isBare, plainMetres } from '../ui/fields'
import { hourOf } from './brief/brief'
import { STEPS } from './list'
import { reshaped } from '../room/plan-shape'

const room = {
  name: 'r',
  shape: {
    plan: [
      [0, 0],
      [4, 0],
      [4, 3],
      [0, 3],
    ],
    ceiling: { kind: 'flat', height_m: 2.5, drops: [] },
  },
  surfaces: {},
  covers: [],
  tape: [],
  openings: [{ kind: 'door', surface: 'wall-1', x_m: 3, z_m: 0, width_m: 0.8, height_m: 2 }],
  furnishings: [{ kind: 'desk', at: [3.3, 2], size_m: [1.2, 0.6, 0.7], turn_deg: 0 }],
  noises: [{ name: 'fan', kind: 'inside', at: [3.8, 2.8, 1], octaves_db: {} }],
  arrangements: [
    {
      id: 'as-is',
      performer: { at: [3.6, 2.6, 2.4] },
      microphone: { at: [1, 1, 1.4] },
      second_microphone: { at: [3.8, 2.8, 1.4] },
      laptop: { at: [3.8, 2.8, 0.7] },
      monitors: [],
      screens: [{ at: [3.8, 2.8, 0], width_m: 1 }],
      treatments: [{ kind: 'panel', surface: 'wall-2', x_m: 2, z_m: 0.5, width_m: 0.6, height_m: 1.2 }],
    },
  ],
} as unknown as RoomDoc

describe('a room that gets smaller', () => {
  const boxed = (x: number, y: number, z: number) =>
    reshaped(
      room,
      [
        [0, 0],
        [x, 0],
        [x, y],
        [0, y],
      ],
      { kind: 'flat', height_m: z, drops: [] },
    )
  const small = boxed(2, 1.5, 2)
  it('keeps everybody and everything inside', () => {
    expect(extentOf(small)).toEqual({ minX: 0, minY: 0, maxX: 2, maxY: 1.5 })
    const { performer, treatments, second_microphone, laptop, screens } = small.arrangements[0]!
    for (const { at } of [second_microphone!, laptop!, ...screens]) {
      expect(at[0]).toBeLessThan(2)
      expect(at[1]).toBeLessThan(1.5)
    }
    expect(performer.at[0]).toBeLessThan(2)
    expect(performer.at[2]).toBeLessThanOrEqual(1.95) // clear of the ceiling by a hand
    expect(small.furnishings[0]!.at[0] + 0.6).toBeLessThanOrEqual(2.08)
    expect(small.noises[0]!.at![1]).toBeLessThan(1.5)
    for (const patch of [small.openings[0]!, treatments[0]!]) {
      expect(patch.x_m + patch.width_m).toBeLessThanOrEqual(2.0001)
      expect(patch.z_m + patch.height_m).toBeLessThanOrEqual(2)
    }
  })
  it('keeps the size of things when it gets larger', () => {
    const large = boxed(8, 6, 3)
    expect(large.openings[0]!.width_m).toBe(0.8)
    expect(large.arrangements[0]!.treatments[0]!.height_m).toBe(1.2)
  })
})

describe('the path', () => {
  it('has knots that fill as things are known', () => {
    const known = (part: object) => ({ document: room, readings: [], measured: undefined, ...part })
    const filled = (part: object) => STEPS.filter((s) => s.filled(known(part))).map((s) => s.key)
    expect(filled({})).toEqual(['brief', 'tape', 'marks', 'treat'])
    const take = [{ form: 'take', verdict: { usable: true } }] as unknown as ReadingSummary[]
    expect(filled({ readings: take })).toContain('take')
    const bounce = (current: boolean) => ({ measured: { bounce: { current } } })
    expect(filled(bounce(true))).toContain('listen')
    expect(filled(bounce(false))).not.toContain('listen')
  })
})

describe('paths drawn', () => {
  it('are the loudest single returns, loudest last', () => {
    const path = (order: number, level_db: number) => ({
      order,
      level_db,
      delay_ms: 5,
      surfaces: [],
      points: [],
      where: '',
    })
    const shown = pathsToShow([path(1, -20), path(2, -10), path(1, -12), path(1, -50)])
    expect(shown.map((p) => p.level_db)).toEqual([-20, -12])
  })
})

describe('bare numbers', () => {
  it('are asked about by who thinks in feet, and metres on a metric tape', () => {
    expect(['3.30', ' 95 ', '7 10', "11' 10", '3.3 m'].map((text) => isBare(text, 'imperial'))).toEqual([
      true,
      true,
      false,
      false,
      false,
    ])
    expect(isBare('3.62', 'metric')).toBe(false)
  })
})

describe('a length typed on a metric tape', () => {
  it.each([
    ['3.62', 3.62],
    ['3,62 m', 3.62],
    ['12', 12],
    ['362 cm', null],
    ["11' 10", null],
    ['25', null],
    ['0', null],
    ['long', null],
  ])('%s is %s, or left to the server', (text, metres) => expect(plainMetres(text, 'metric')).toBe(metres))
  it('is never taken for metres on an imperial one', () => expect(plainMetres('3', 'imperial')).toBeNull())
})

describe('an hour as people type it', () => {
  it.each([
    ['8pm', 20],
    ['7.30 pm', 19.5],
    ['12 am', 0],
    ['19:30', 19.5],
    ['20h', 20],
    ['noon', 12],
    ['13 pm', null],
    ['25', null],
    ['soon', null],
  ])('%s', (text, hour) => expect(hourOf(text)).toBe(hour))
})
