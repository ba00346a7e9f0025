import type { LedgerEntry, MarkKey } from '../api/client'
import { NAMES, UNITS } from '../marks/scales'

type Row = NonNullable<LedgerEntry['proof']>[number]

/** What a reading says of a move, a sentence for each mark that it settles. */
export const proofWords = (rows: readonly Row[], readingId: string | null = null): string[] =>
  rows
    .filter((row) => row.words && (readingId === null || row.reading_id === readingId))
    .map((row) => `${NAMES[row.mark as MarkKey]}: ${proofOf(row)}`)

/** The change that was measured beside the one that was promised, and what the one says of the other. */
export function proofOf(row: Row): string {
  const mark = row.mark as MarkKey
  const spread = (row.change_plus_minus ?? 0).toFixed(mark === 'boom' ? 2 : 1)
  return `${changed(mark, row.change_measured ?? 0)} measured, ${changed(mark, row.change_predicted ?? 0)} ±${spread} promised. ${row.words}`
}

const changed = (mark: MarkKey, by: number) =>
  `${by > 0 ? '+' : '−'}${Math.abs(by).toFixed(mark === 'boom' ? 2 : 1)} ${UNITS[mark]}`
