import { describe, expect, it } from 'vitest'
import { aRoom, anArrangement } from '../testing/served'
import { renamed, sheetsOf, tryingSheet, withoutSheet, withPieceOf, withSheet } from './sheets'
import { TRYING } from './trying'

const panel = { kind: 'panel', surface: 'wall-1', x_m: 0, z_m: 0, width_m: 1, height_m: 1 }

describe('sheets', () => {
  it('are kept beside what stands, each with a name and a key of its own', () => {
    const first = withSheet(aRoom().document, anArrangement(), 'Modest')
    const twice = withSheet(first, anArrangement(), 'Modest')
    expect(sheetsOf(twice).map((a) => [a.id, a.name])).toEqual([
      ['sheet', 'Modest'],
      ['sheet-2', 'Modest 2'],
    ])
    const thrice = withSheet(twice, anArrangement(), 'Modest') // a third one took the second's key
    expect(sheetsOf(thrice).map((a) => a.id)).toEqual(['sheet', 'sheet-2', 'sheet-3'])
    expect(sheetsOf(withoutSheet(thrice, 'sheet-2')).map((a) => a.name)).toEqual(['Modest', 'Modest 3'])
    expect(twice.arrangements[0]!.id).toBe('as-is')
    expect(sheetsOf(withoutSheet(twice, 'sheet'))).toHaveLength(1)
    expect(withoutSheet(twice, 'as-is').arrangements[0]!.id).toBe('as-is')
    expect(sheetsOf(renamed(twice, 'sheet', ' Thick '))[0]!.name).toBe('Thick')
    expect(sheetsOf(renamed(twice, 'sheet', ' '))[0]!.name).toBe('Modest')
  })
  it('are tried in place of what stands, and stay', () => {
    const kept = withSheet(aRoom().document, anArrangement({ gain_db: -3 }), 'Quiet')
    const trying = tryingSheet(kept, 'sheet')
    expect(trying.arrangements.map((a) => a.id)).toEqual(['as-is', TRYING, 'sheet'])
    expect(trying.arrangements[1]!.gain_db).toBe(-3)
    expect(trying.arrangements[1]!.trying!.title).toBe('Quiet')
    expect(tryingSheet(kept, 'nobody')).toBe(kept)
  })
  it('lend pieces to each other', () => {
    const document = withSheet(aRoom().document, anArrangement({ treatments: [panel] as never }), 'One')
    const both = withSheet(document, anArrangement(), 'Two')
    expect(sheetsOf(withPieceOf(both, 'sheet', 0, 'sheet-2'))[1]!.treatments).toHaveLength(1)
    expect(withPieceOf(both, 'sheet', 4, 'sheet-2')).toBe(both)
  })
})
