import { useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router-dom'
import type { LedgerEntry } from '../api/client'
import { roomQueries } from '../api/queries'
import { proofWords } from '../moves/proof'
import { useDesk } from '../rooms/use-desk'
import { useKinds } from '../state/catalogue'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'
import { toneOf } from './verdict'

/** What was just learnt by a reading that this step asked for: its figure, what it proves, and the way to all of it. */
export function Learnt() {
  const { id } = useRoom()
  const { learnt, learn } = useDesk()
  const navigate = useNavigate()
  const { kindOf } = useKinds()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const { data: ledger = [] } = useQuery(roomQueries.ledger(id))
  const reading = readings.find((r) => r.id === learnt)
  if (!reading) return null
  const said = reading.verdict.usable ? reading.headline.said : reading.verdict.reasons[0]?.text
  return (
    // over the stage, not above it: what one was looking at stays where it was
    <div className="fixed bottom-4 left-[148px] z-40 max-w-xl rounded-xl bg-card shadow-card max-lg:inset-x-3 max-lg:max-w-none">
      <Notice
        tone={toneOf(reading)}
        title={`${kindOf(reading.kind).name}${reading.simulated ? ' (simulated)' : ''}: ${said || reading.verdict.word}`}
      >
        <div data-testid="learnt">
          {reading.verdict.usable ? null : <p className="text-ink-2">{reading.verdict.reasons[0]?.cure}</p>}
          {proofsBy(ledger, reading.id).map((words) => (
            <p key={words}>{words}</p>
          ))}
          <div className="mt-1 flex gap-1.5">
            <Button
              small
              onClick={() => {
                learn(null)
                void navigate(`/rooms/${id}/listen/reading/${reading.id}`)
              }}
            >
              See all of it
            </Button>
            <Button small look="quiet" onClick={() => learn(null)}>
              Thanks
            </Button>
          </div>
        </div>
      </Notice>
    </div>
  )
}

const proofsBy = (ledger: readonly LedgerEntry[], readingId: string) =>
  ledger
    .filter((entry) => entry.kind === 'move')
    .slice(0, 1)
    .flatMap((entry) => proofWords(entry.proof ?? [], readingId))
