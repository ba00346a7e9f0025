import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router-dom'
import { roomQueries } from '../../api/queries'
import { PutBack } from '../../marks/put-back'
import { Head } from '../../rooms/head'
import { PutBackOn } from '../../rooms/put-back-on'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { shortText, useUnits } from '../../state/units'
import { Failed } from '../../ui/notice'

export const isToday = (at: string) => new Date(at).toDateString() === new Date().toDateString()
const timeOf = (at: string) =>
  new Date(at).toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit', hour12: false })

/** What the ledger knows of today: moves and readings in their order. */
export function SessionStage() {
  const { id } = useRoom()
  const ledger = useQuery(roomQueries.ledger(id))
  const today = (ledger.data ?? []).filter((entry) => isToday(entry.at))
  const moves = today.filter((entry) => entry.kind === 'move').length
  const readings = today.filter((entry) => entry.kind === 'reading').length
  const many = (n: number, what: string) => `${n === 0 ? 'no' : n} ${what}${n === 1 ? '' : 's'}`
  return (
    <>
      <Head
        question="What happened today?"
        answer={
          ledger.isPending
            ? ''
            : today.length === 0
              ? 'Nothing yet today.'
              : `Today ${many(moves, 'move')} and ${many(readings, 'reading')}${moves > 0 && readings === 0 ? '; what the moves did is not read yet' : ''}.`
        }
      />
      <Failed error={ledger.error} />
      <div className="mt-2 max-w-2xl">
        <PutBackOn />
      </div>
      <ol className="mt-2 max-w-2xl max-lg:min-h-80" data-testid="today">
        {[...today].reverse().map((entry) => (
          <li key={entry.id} className="flex items-center gap-4 border-b border-line py-2.5 last:border-0">
            <span
              aria-hidden
              className={`size-3.5 shrink-0 rounded-full ${entry.kind === 'move' ? 'bg-change' : entry.kind === 'reading' ? 'bg-ink' : 'bg-felt'}`}
            />
            <span className="w-14 text-ink-2">{timeOf(entry.at)}</span>
            <span className="font-display text-head font-semibold">
              {entry.kind === 'move' ? 'Done: ' : ''}
              {entry.title}
            </span>
          </li>
        ))}
      </ol>
      {today.length === 0 && !ledger.isPending ? (
        <p className="mt-3 max-w-xl text-ink-2">
          What is read and done today comes here, in its order. A silence and a short take before the first song show
          whether the room is as it was:{' '}
          <Link className="font-semibold text-ink underline" to={`/rooms/${id}/listen`}>
            take a reading
          </Link>
          .
        </p>
      ) : null}
    </>
  )
}

/** Where everybody stands, to be put back. */
export function SessionSide() {
  const { active } = useRoom()
  const { active: predicted } = usePredicted()
  const units = useUnits()
  const place = (at: readonly number[]) =>
    `${shortText(at[0]!, units)} from the left, ${shortText(at[1]!, units)} from the bottom, ${shortText(at[2]!, units)} high`
  return (
    <section>
      <h2 className="mb-1 text-head">The marks, to put back</h2>
      <dl className="space-y-1.5 text-note">
        <dt className="font-semibold">Microphone</dt>
        <dd className="text-ink-2">
          {place(active.microphone.at)}; aims {active.microphone.aims_deg.toFixed(0)}°
        </dd>
        <dt className="font-semibold">You</dt>
        <dd className="text-ink-2">
          {place(active.performer.at)}; facing {active.performer.faces_deg.toFixed(0)}°
        </dd>
        <dt className="font-semibold">Between you</dt>
        <dd className="text-ink-2">{predicted ? shortText(predicted.marks.touch.distance_m, units) : '–'}</dd>
      </dl>
      <div className="mt-3">
        <PutBack />
      </div>
    </section>
  )
}
