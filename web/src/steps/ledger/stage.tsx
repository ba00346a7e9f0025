import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { type LedgerEntry } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { BenchCard } from '../../rooms/bench-card'
import { Head } from '../../rooms/head'
import { useRoom } from '../../state/room'
import { Failed } from '../../ui/notice'
import { Lanes } from './lanes'
import type { MarkKey } from '../../api/client'
import { figure, NAMES, UNITS } from '../../marks/scales'
import { Proof } from './ledger'

/** Time is the stage: the four strings on their side, and what the chosen move promised and did. */
export function LedgerStage() {
  const { id } = useRoom()
  const ledger = useQuery(roomQueries.ledger(id))
  const [chosen, setChosen] = useState<number | null>(null)
  if (ledger.isError) return <Failed error={ledger.error} />
  const entries = ledger.data ?? []
  const moves = entries.filter((entry) => entry.kind === 'move')
  const shown = moves.find((move) => move.id === chosen) ?? moves[0]
  return (
    <>
      <Head question="Did it work?" answer={ledger.isPending ? '' : firstLine(entries, moves)} />
      <Lanes entries={entries} chosen={shown?.id ?? null} onChoose={setChosen} />
      {shown ? (
        <BenchCard className="max-w-xl shrink-0 pb-3">
          <h3 className="text-head">
            {moves.length - moves.indexOf(shown)}: {shown.title} · done{' '}
            {new Date(shown.at).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })}
          </h3>
          <Proof rows={shown.proof ?? []} />
        </BenchCard>
      ) : null}
    </>
  )
}

function firstLine(entries: readonly LedgerEntry[], moves: readonly LedgerEntry[]): string {
  if (entries.length === 0) return 'Nothing has been read or done here yet.'
  if (moves.length === 0) return 'No move is done yet: what is read stands here, and what a move does will.'
  const proved = moves.filter((m) => (m.proof ?? []).some((r) => r.measured !== null))
  const kept = proved.filter((m) => (m.proof ?? []).every((r) => r.measured === null || r.within))
  const rows = (moves[0]!.proof ?? []).filter((r) => r.measured !== null)
  const last = rows
    .map((r) => `${NAMES[r.mark as MarkKey]} ${figure(r.mark as MarkKey, r.measured!)} ${UNITS[r.mark as MarkKey]}`)
    .join(', ')
  return `${moves.length} ${moves.length === 1 ? 'move' : 'moves'} done, ${proved.length} proved${proved.length ? `, ${kept.length} as promised` : ''}.${last ? ` After the last: ${last}.` : ' Take a sweep to see what the last one did.'}`
}
