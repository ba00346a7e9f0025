import { useQuery } from '@tanstack/react-query'
import { roomChanged } from '../api/cache'
import { $api, type Form, type ReadingSummary } from '../api/client'
import { ofReading, roomQueries } from '../api/queries'
import { useDesk } from '../rooms/use-desk'
import { useKinds } from '../state/catalogue'
import { useRoom } from '../state/room'
import { Bin } from '../ui/bin'
import { Button } from '../ui/button'
import { Sketch } from './sketch'
import { WAY_WORDS } from './ways'

/** The readings as rows with a small drawing each; one of them is open. */
export function ReadingRows({ form = null, fallback = null }: { form?: Form | null; fallback?: string | null }) {
  const { id } = useRoom()
  const { kindOf } = useKinds()
  const { reading, open, openTable } = useDesk()
  const chosen = reading ?? fallback
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const shown = form ? readings.filter((r) => r.form === form) : readings
  const { data: binned = [] } = useQuery(roomQueries.binnedReadings(id))
  const takeOut = $api.useMutation('post', '/api/readings/{reading_id}/restore', { onSuccess: () => roomChanged(id) })
  return (
    <section>
      <div className="mb-1 flex items-baseline justify-between">
        <h3 className="font-semibold">Taken so far</h3>
        {readings.length ? (
          <Button small look="quiet" onClick={openTable}>
            Table and compare
          </Button>
        ) : null}
      </div>
      {shown.length === 0 ? (
        <p className="text-note text-ink-2">
          None yet. A sweep and a silence tell most; the practice rig shows how it goes.
        </p>
      ) : (
        <ul>
          {shown.map((one) => (
            <Row key={one.id} reading={one} chosen={one.id === chosen} onChoose={() => open(one.id)} />
          ))}
        </ul>
      )}
      <Bin
        things={binned.map((r) => ({
          id: r.id,
          name: `${kindOf(r.kind).name}, ${new Date(r.taken_at).toLocaleString()}`,
        }))}
        onTakeOut={(readingId) => takeOut.mutate(ofReading(readingId))}
      />
    </section>
  )
}

function Row({ reading, chosen, onChoose }: { reading: ReadingSummary; chosen: boolean; onChoose: () => void }) {
  const { id } = useRoom()
  const { kindOf } = useKinds()
  const bin = $api.useMutation('delete', '/api/readings/{reading_id}', { onSuccess: () => roomChanged(id) })
  const when = new Date(reading.taken_at)
  const name = kindOf(reading.kind).name
  return (
    <li className={`flex items-center gap-1 rounded-lg ${chosen ? 'bg-floor' : ''}`}>
      <button
        onClick={onChoose}
        aria-pressed={chosen}
        className="flex min-w-0 flex-1 items-center gap-2.5 rounded-lg px-2 py-1.5 text-left"
      >
        <Sketch form={reading.form as Form} heights={reading.headline.sketch} />
        <span className="min-w-0 text-small leading-snug text-ink-2">
          <strong className="text-note font-semibold text-ink">
            {reading.settings.average_of
              ? 'Average'
              : reading.way === 'import'
                ? `${name}, ${reading.file_name}`
                : name}
          </strong>
          <br />
          <span className="text-ink">{reading.headline.said || reading.file_name}</span>
          <br />
          {WAY_WORDS[reading.way]}
          {reading.verdict.word === 'good' ? '' : ` · ${reading.verdict.word}`}
          {reading.counts ? '' : ' · set aside'} ·{' '}
          {when.toLocaleDateString(undefined, { day: 'numeric', month: 'short' })}{' '}
          {when.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit', hour12: false })}
        </span>
      </button>
      <Button
        small
        look="quiet"
        disabled={bin.isPending}
        onClick={() => bin.mutate(ofReading(reading.id))}
        aria-label={`Put this ${name} into the bin`}
      >
        Bin
      </Button>
    </li>
  )
}
