import type { Arrangement, Edit, RoomDoc } from '../api/client'
import { applied } from './edits'

export const STANDING = 0
export const TRYING = 'what-if'

/** The document without the move being tried. */
export const withoutTrying = (document: RoomDoc): RoomDoc =>
  document.arrangements.some((a) => a.id === TRYING)
    ? { ...document, arrangements: document.arrangements.filter((a) => a.id !== TRYING) }
    : document

const activeIn = (document: RoomDoc): Arrangement =>
  document.arrangements.find((a) => a.id === TRYING) ?? document.arrangements[STANDING]!

/** The document after edits of the arrangement in sight. */
export function edited(document: RoomDoc, edits: readonly Edit[]): RoomDoc {
  const active = activeIn(document)
  const next = applied(active, edits, document)
  const kept = next.trying ? { ...next, trying: { ...next.trying, edits: [...next.trying.edits, ...edits] } } : next
  return { ...document, arrangements: document.arrangements.map((a) => (a === active ? kept : a)) }
}

/** The document with a move being tried beside its standing arrangement. */
export function withTrying(
  document: RoomDoc,
  { kind, title, edits }: { kind: string; title: string; edits: readonly Edit[] },
): RoomDoc {
  const [standing, ...others] = withoutTrying(document).arrangements
  const trying = { kind: kind.slice(0, 24), title, why: '', edits: [...edits] }
  const tried = { ...applied(standing!, edits, document), id: TRYING, name: title.slice(0, 120), trying }
  return { ...document, arrangements: [standing!, tried, ...others] }
}
