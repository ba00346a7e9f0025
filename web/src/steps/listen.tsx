import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, type ReadingSummary, unwrap } from '../api/client'
import { roomQueries } from '../api/queries'
import { useRoom } from '../state/room'
import { Bin } from '../ui/bin'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'
import { FitSection } from './fit'
import { type Kind, TakeReading } from './take-reading'

const KIND_WORDS: Record<string, string> = {
  sweep: 'Sweep',
  ir: 'Impulse',
  clap: 'Clap',
  glide: 'Hum glide',
  tone: 'Silence',
  take: 'Test take',
}
const FITTING = ['sweep', 'ir', 'clap']
const WAY_WORDS: Record<string, string> = { rig: 'simulated', browser: 'recorded here', import: 'file' }

export function ListenPanel({
  chosen,
  onChoose,
  kinds,
}: {
  chosen: string | null
  onChoose: (id: string) => void
  kinds?: readonly Kind[]
}) {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const shown = kinds ? readings.filter((r) => kinds.includes(r.kind as Kind)) : readings
  const { data: binned = [] } = useQuery(roomQueries.binnedReadings(id))
  const client = useQueryClient()
  const takeOut = useMutation({
    mutationFn: async (readingId: string) =>
      unwrap<ReadingSummary>(
        await api.POST('/api/readings/{reading_id}/restore', { params: { path: { reading_id: readingId } } }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['room', id] }),
  })
  const current = shown.find((r) => r.id === chosen)
  return (
    <div className="space-y-3">
      <h2 className="text-[1.1rem]">Take a reading</h2>
      <TakeReading {...(kinds ? { kinds } : {})} onTaken={(reading) => onChoose(reading.id)} />
      {current ? <Verdict reading={current} /> : null}
      <section>
        <h3 className="mb-1 font-semibold">Taken so far</h3>
        {shown.length === 0 ? (
          <p className="text-[0.92rem] text-ink-2">
            None yet. A sweep and a silence tell most; the practice rig shows how it goes.
          </p>
        ) : (
          <ul>
            {shown.map((reading) => (
              <Row
                key={reading.id}
                reading={reading}
                chosen={reading.id === chosen}
                onChoose={() => onChoose(reading.id)}
              />
            ))}
          </ul>
        )}
        <Bin
          things={binned.map((r) => ({
            id: r.id,
            name: `${KIND_WORDS[r.kind] ?? r.kind}, ${new Date(r.taken_at).toLocaleString()}`,
          }))}
          onTakeOut={(readingId) => takeOut.mutate(readingId)}
        />
      </section>
      {kinds ? null : (
        <FitSection readings={shown.filter((r) => FITTING.includes(r.kind) && r.verdict.usable).length} />
      )}
    </div>
  )
}

function Verdict({ reading }: { reading: ReadingSummary }) {
  const { verdict } = reading
  const tone = !verdict.usable ? 'stop' : verdict.reasons.length ? 'care' : 'good'
  const title = { stop: 'Not usable', care: 'Usable, with care', good: 'A good reading' }[tone]
  return (
    <Notice tone={tone} title={`${title}${reading.simulated ? ' (simulated)' : ''}`}>
      {verdict.reasons.map((r) => (
        <p key={r.code} className="text-ink-2">
          {r.text} {r.cure}
        </p>
      ))}
    </Notice>
  )
}

function Row({ reading, chosen, onChoose }: { reading: ReadingSummary; chosen: boolean; onChoose: () => void }) {
  const { id } = useRoom()
  const client = useQueryClient()
  const bin = useMutation({
    mutationFn: async () =>
      unwrap<ReadingSummary>(
        await api.DELETE('/api/readings/{reading_id}', { params: { path: { reading_id: reading.id } } }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['room', id] }),
  })
  const when = new Date(reading.taken_at)
  return (
    <li className={`flex items-center gap-1 rounded-lg ${chosen ? 'bg-floor' : ''}`}>
      <button onClick={onChoose} aria-pressed={chosen} className="min-w-0 flex-1 rounded-lg px-2 py-1.5 text-left">
        <span className="font-semibold">{KIND_WORDS[reading.kind] ?? reading.kind}</span>{' '}
        <span className="text-[0.86rem] text-ink-2">
          {WAY_WORDS[reading.way]} · {reading.verdict.word}
          <br />
          {when.toLocaleDateString(undefined, { day: 'numeric', month: 'short' })}{' '}
          {when.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })}
        </span>
      </button>
      <a href={`/api/readings/${reading.id}/audio`} download={reading.file_name} className="rounded-full px-2 py-1 text-[0.84rem] font-semibold text-ink-2 hover:text-ink" aria-label={`Download the sound of this ${KIND_WORDS[reading.kind]}`}>
        Sound
      </a>
      <Button small look="quiet" disabled={bin.isPending} onClick={() => bin.mutate()} aria-label={`Put this ${KIND_WORDS[reading.kind]} into the bin`}>
        Bin
      </Button>
    </li>
  ) // prettier-ignore
}
