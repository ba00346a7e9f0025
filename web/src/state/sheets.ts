import type { Arrangement, RoomDoc } from '../api/client'
import { STANDING, TRYING, withoutTrying } from './trying'

/** Arrangements kept as sheets beside the one that stands, which is how the room is built. */
export const sheetsOf = (document: RoomDoc): Arrangement[] =>
  document.arrangements.filter((a, i) => i !== STANDING && a.id !== TRYING)

const MOST = 12

/** A name as it is, or with the first number under which it is not taken. */
function free(name: string, joint: string, taken: ReadonlySet<string>): string {
  let [found, n] = [name, 2]
  while (taken.has(found)) found = `${name}${joint}${n++}`
  return found
}

/** The document with an arrangement kept as a sheet of its own name; a name that is taken gets a number. */
export function withSheet(document: RoomDoc, arrangement: Arrangement, name: string): RoomDoc {
  if (sheetsOf(document).length >= MOST) return document
  const called = name.trim().slice(0, 110) || 'Sheet'
  const { arrangements } = document
  const kept: Arrangement = {
    ...arrangement,
    id: free('sheet', '-', new Set(arrangements.map((a) => a.id))),
    name: free(called, ' ', new Set(arrangements.map((a) => a.name))),
    trying: null,
  }
  return { ...document, arrangements: [...document.arrangements, kept] }
}

export const withoutSheet = (document: RoomDoc, id: string): RoomDoc => ({
  ...document,
  arrangements: document.arrangements.filter((a, i) => i === STANDING || a.id !== id),
})

export const renamed = (document: RoomDoc, id: string, name: string): RoomDoc => ({
  ...document,
  arrangements: document.arrangements.map((a) =>
    a.id === id ? { ...a, name: name.trim().slice(0, 110) || a.name } : a,
  ),
})

/** The document with a sheet being tried in place of the arrangement that stands. */
export function tryingSheet(document: RoomDoc, id: string): RoomDoc {
  const [standing, ...others] = withoutTrying(document).arrangements
  const sheet = others.find((a) => a.id === id)
  if (!standing || !sheet) return document
  const trying = { kind: 'sheet', title: sheet.name || sheet.id, why: '', edits: [] }
  return { ...document, arrangements: [standing, { ...sheet, id: TRYING, trying }, ...others] }
}

/** One piece that hangs in a sheet, hung in another as well. */
export const withPieceOf = (document: RoomDoc, fromId: string, number: number, toId: string): RoomDoc => {
  const piece = document.arrangements.find((a) => a.id === fromId)?.treatments[number]
  if (!piece) return document
  return {
    ...document,
    arrangements: document.arrangements.map((a) =>
      a.id === toId ? { ...a, treatments: [...a.treatments, piece] } : a,
    ),
  }
}
