import { describe, expect, it } from 'vitest'
import shared from '../../../tests/shared/edits.json'
import type { Arrangement, Edit, RoomDoc } from '../api/client'
import { applied, wordsOf } from './edits'
import { edited, TRYING, withTrying } from './trying'

// what the server fills in
const START = {
  opened: [],
  moved: [],
  screens: [],
  monitors: [],
  treatments: [],
  silenced: [],
  sealed: [],
  hour: null,
  gain_db: 0,
}
const [first] = shared.room.arrangements
const arrangement = { ...START, ...first, trying: null } as unknown as Arrangement
const room = { ...shared.room, arrangements: [arrangement] } as unknown as RoomDoc
const at = (value: unknown, path: string): unknown =>
  path.split('.').reduce((now, key) => (now as Record<string, unknown>)[key], value)

describe('an edit, as on the server,', () => {
  it.each(shared.cases.map((c) => [c.does, c] as const))('%s', (_, { edit, then }) => {
    const after = applied(arrangement, [edit as Edit], room)
    for (const [path, value] of Object.entries(then)) expect(at(after, path)).toEqual(value)
  })
})

describe('a move being tried', () => {
  const hour: Edit = { do: 'set-hour', hour: 22 }
  const tried = withTrying(room, { kind: 'hour', title: 'Record at night', edits: [hour] })
  it('stands beside the standing arrangement and carries its edits', () => {
    expect(tried.arrangements.map((a) => [a.id, a.hour])).toEqual([
      ['as-is', null],
      [TRYING, 22],
    ])
    expect(tried.arrangements[1]!.trying!.edits).toEqual([hour])
  })
  it('takes in what is changed while it is tried, and leaves the standing one alone', () => {
    const gain: Edit = { do: 'set-gain', gain_db: -3 }
    const [standing, what] = edited(tried, [gain]).arrangements
    expect([standing!.gain_db, what!.gain_db, what!.trying!.edits]).toEqual([0, -3, [hour, gain]])
  })
})

describe('the words of an edit', () => {
  const words = { place: 'move the {who}', hang: 'hang {what}', switch: 'switch {what} {state}' }
  it.each<[Edit[], string]>([
    [
      [{ do: 'place', who: 'second-microphone', at: [0, 0, 0], turn_deg: 0, tilt_deg: 0 }],
      'move the second microphone',
    ],
    [[{ do: 'switch', noise: 'Fan', on_again: false }], 'switch Fan off'],
  ])('say what undo takes back', (edits, said) => expect(wordsOf(edits, words)).toBe(said))
  it('call a thing taken down and hung again moved', () => {
    const treatment = arrangement.treatments[0]!
    expect(
      wordsOf(
        [
          { do: 'take-down', number: 0 },
          { do: 'hang', treatment, number: 0 },
        ],
        words,
      ),
    ).toBe('move rug')
  })
})
