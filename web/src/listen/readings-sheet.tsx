import { useQuery } from '@tanstack/react-query'
import { roomChanged } from '../api/cache'
import { useState } from 'react'
import { $api, type ReadingSummary, type Schemas } from '../api/client'
import { ofReading, ofRoom, readingsBefore, roomQueries } from '../api/queries'
import { useKinds } from '../state/catalogue'
import { useRoom } from '../state/room'
import { useMore } from '../state/use-more'
import { PlotHeight, type Series, XYPlot } from '../plots/xy-plot'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'
import { Check, TextField } from '../ui/fields'
import { Failed } from '../ui/notice'
import { Compare } from './compare'
import { WAY_WORDS } from './ways'

/** All readings of the room in one table: choose some to compare or average, write notes and tags, set aside, take away. */
export function ReadingsSheet({ onChoose, onClose }: { onChoose: (id: string) => void; onClose: () => void }) {
  const { id } = useRoom()
  const { kindOf } = useKinds()
  const { data: newest = [] } = useQuery(roomQueries.readings(id))
  const { all: readings, button: earlier } = useMore(
    newest,
    (all) => readingsBefore(id, all.at(-1)!.sequence),
    'Earlier readings',
  )
  const [picked, setPicked] = useState<readonly string[]>([])
  const [open, setOpen] = useState<string | null>(null)
  const [tag, setTag] = useState<string | null>(null)
  const [comparing, setComparing] = useState(false)
  const tags = [...new Set(readings.flatMap((r) => r.tags))].sort()
  const shown = tag ? readings.filter((r) => r.tags.includes(tag)) : readings
  const chosen = readings.filter((r) => picked.includes(r.id))
  const average = $api.useMutation('post', '/api/rooms/{room_id}/readings/average', {
    onSuccess: async () => {
      setPicked([])
      await roomChanged(id)
    },
  })
  const repeats = chosen.length > 1 && chosen.every((r) => kindOf(r.kind).averaged)
  return (
    <Sheet open onClose={onClose} title={comparing ? 'Side by side' : 'All readings'} wide="full">
      {comparing ? (
        <Compare readings={chosen.toReversed()} onBack={() => setComparing(false)} />
      ) : (
        <div className="space-y-3" data-testid="readings-sheet">
          <div className="flex flex-wrap items-center gap-2">
            <Button look="main" disabled={picked.length < 2} onClick={() => setComparing(true)}>
              {picked.length < 2 ? 'Tick two or more to compare' : `Compare these ${picked.length}`}
            </Button>
            <Button
              disabled={!repeats || average.isPending}
              onClick={() => average.mutate({ ...ofRoom(id), body: { reading_ids: [...picked] } })}
            >
              Average the sweeps
            </Button>
            <a
              href={`/api/rooms/${id}/readings.csv`}
              download
              className="px-2 text-note font-semibold underline decoration-line-strong underline-offset-2"
            >
              Save the table (CSV)
            </a>
            <div className="ml-auto flex flex-wrap gap-1" role="group" aria-label="Show only one tag">
              {tags.map((t) => (
                <button
                  key={t}
                  aria-pressed={tag === t}
                  onClick={() => setTag(tag === t ? null : t)}
                  className={`rounded-full border px-2.5 py-0.5 text-small ${tag === t ? 'border-ink bg-ink text-paper' : 'border-line-strong'}`}
                >
                  {t}
                </button>
              ))}
            </div>
          </div>
          <Failed error={average.error} />
          <div className="overflow-x-auto">
            <table className="w-full min-w-[760px] text-note">
              <thead className="text-left text-ink-2">
                <tr>
                  <th className="w-8">
                    <span className="sr-only">Compare</span>
                  </th>
                  <th className="font-normal">Reading</th>
                  <th className="font-normal">Says</th>
                  <th className="font-normal whitespace-nowrap">Mic stood at, m</th>
                  <th className="text-right font-normal">T mid, s</th>
                  <th className="text-right font-normal">C50, dB</th>
                  <th className="text-right font-normal">Direct, dB</th>
                  <th className="pl-3 font-normal">Verdict</th>
                  <th className="font-normal">Tags and note</th>
                  <th />
                </tr>
              </thead>
              <tbody>
                {shown.map((reading) => (
                  <Line
                    key={reading.id}
                    reading={reading}
                    picked={picked.includes(reading.id)}
                    open={open === reading.id}
                    onPick={(on) => setPicked(on ? [...picked, reading.id] : picked.filter((p) => p !== reading.id))}
                    onOpen={() => setOpen(open === reading.id ? null : reading.id)}
                    onChoose={() => onChoose(reading.id)}
                  />
                ))}
              </tbody>
            </table>
            {earlier}
          </div>
          <Spread readings={shown} />
          <OverTime readings={shown} />
        </div>
      )}
    </Sheet>
  )
}

const number = (value: number | null | undefined, digits: number) =>
  value === null || value === undefined ? '–' : value.toFixed(digits).replace('-', '−')

type LineProps = {
  reading: ReadingSummary
  picked: boolean
  open: boolean
  onPick: (on: boolean) => void
  onOpen: () => void
  onChoose: () => void
}

function Line({ reading, picked, open, onPick, onOpen, onChoose }: LineProps) {
  const when = new Date(reading.taken_at)
  const h = reading.headline
  const kind = useKinds().kindOf(reading.kind).name
  const name = `${kind} of ${when.toLocaleString()}`
  return (
    <>
      <tr className={`border-t border-line align-top ${reading.counts ? '' : 'text-ink-2'}`}>
        <td className="pt-1.5">
          <input
            type="checkbox"
            checked={picked}
            onChange={(e) => onPick(e.target.checked)}
            aria-label={`Compare ${name}`}
            className="size-4.5 accent-[var(--felt)]"
          />
        </td>
        <td className="py-1.5 pr-2">
          <button className="text-left" onClick={onChoose}>
            <span className="font-semibold underline decoration-line-strong underline-offset-2">
              {reading.settings.average_of ? 'Average' : kind}
            </span>
            <span className="block text-fine text-ink-2">
              {when.toLocaleDateString(undefined, { day: 'numeric', month: 'short' })}{' '}
              {when.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })} · {WAY_WORDS[reading.way]}
            </span>
          </button>
        </td>
        <td className="py-1.5 pr-2">{reading.headline.said || reading.file_name}</td>
        <td className="py-1.5 pr-2 whitespace-nowrap tabular-nums">
          {reading.mic_at.map((v) => v.toFixed(2)).join(' · ')}
        </td>
        <td className="py-1.5 text-right tabular-nums">{number(h.t_mid_s, 2)}</td>
        <td className="py-1.5 text-right tabular-nums">{number(h.c50_mid_db, 1)}</td>
        <td className="py-1.5 text-right tabular-nums">{number(h.direct_over_room_db, 1)}</td>
        <td className="py-1.5 pr-2 pl-3">
          {reading.verdict.word}
          {reading.counts ? '' : ', set aside'}
        </td>
        <td className="max-w-44 py-1.5 pr-2">
          {reading.tags.map((t) => (
            <span key={t} className="mr-1 inline-block rounded-full bg-floor px-2 text-fine">
              {t}
            </span>
          ))}
          <span className="line-clamp-2 text-small text-ink-2">{reading.note}</span>
        </td>
        <td className="py-1 text-right">
          <Button small look="quiet" aria-expanded={open} aria-label={`Edit ${name}`} onClick={onOpen}>
            {open ? 'Close' : 'Edit'}
          </Button>
        </td>
      </tr>
      {open ? (
        <tr>
          <td />
          <td colSpan={9} className="pb-3">
            <Edit reading={reading} />
          </td>
        </tr>
      ) : null}
    </>
  )
}

function Edit({ reading }: { reading: ReadingSummary }) {
  const { id } = useRoom()
  const [note, setNote] = useState(reading.note)
  const [tags, setTags] = useState(reading.tags.join(', '))
  const write = $api.useMutation('patch', '/api/readings/{reading_id}', { onSuccess: () => roomChanged(id) })
  const update = (body: Schemas['ReadingUpdate']) => write.mutate({ ...ofReading(reading.id), body })
  return (
    <div className="grid grid-cols-2 gap-3 rounded-xl bg-paper p-3 max-sm:grid-cols-1">
      <TextField label="Note" value={note} onChange={setNote} />
      <TextField label="Tags, parted by commas" value={tags} onChange={setTags} hint="e.g. before, corner A" />
      <div className="col-span-full flex flex-wrap items-center gap-2">
        <Button small look="main" disabled={write.isPending} onClick={() => update({ note, tags: tags.split(',') })}>
          Keep these words
        </Button>
        <Check
          label="Counts for the marks and the fit"
          checked={reading.counts}
          onChange={(counts) => update({ counts })}
        />
        <span className="ml-auto flex gap-3 text-note font-semibold">
          <a
            className="underline decoration-line-strong underline-offset-2"
            href={`/api/readings/${reading.id}/audio`}
            download={reading.file_name}
          >
            Save the sound
          </a>
          {reading.form === 'response' ? (
            <a
              className="underline decoration-line-strong underline-offset-2"
              href={`/api/readings/${reading.id}/impulse.wav`}
              download
            >
              Save the impulse response (WAV)
            </a>
          ) : null}
        </span>
      </div>
      <Failed error={write.error} />
    </div>
  )
}

/** Mean and spread of what several readings give, real and simulated apart. */
function Spread({ readings }: { readings: readonly ReadingSummary[] }) {
  const groups = [false, true].map((simulated) =>
    readings.filter((r) => r.simulated === simulated && r.counts && r.verdict.usable),
  )
  const lines = groups.flatMap((group) => {
    const values = group.map((r) => r.headline.t_mid_s).filter((v): v is number => typeof v === 'number')
    if (values.length < 2) return []
    const places = new Set(
      group.filter((r) => typeof r.headline.t_mid_s === 'number').map((r) => r.mic_at.slice(0, 2).join()),
    ).size
    const mean = values.reduce((a, b) => a + b, 0) / values.length
    const spread = Math.sqrt(values.reduce((a, b) => a + (b - mean) ** 2, 0) / (values.length - 1))
    return [
      `${group[0]!.simulated ? 'Simulated' : 'Real'}: ${values.length} decays from ${places} ${places === 1 ? 'place' : 'places'}, ${mean.toFixed(2)} s in the middle, spread ${spread.toFixed(2)} s.`,
    ]
  })
  return lines.length ? <p className="text-note text-ink-2">{lines.join(' ')}</p> : null
}

/** How the decay changed from reading to reading, in the order they were taken. */
function OverTime({ readings }: { readings: readonly ReadingSummary[] }) {
  const dated = readings.filter((r) => r.counts && r.headline.t_mid_s).toReversed()
  if (dated.length < 3) return null
  const [first, last] = [dated[0]!.headline.t_mid_s!, dated.at(-1)!.headline.t_mid_s!]
  const top = Math.ceil((Math.max(...dated.map((r) => r.headline.t_mid_s!)) + 0.05) / 0.2) * 0.2
  const series = [false, true].flatMap((simulated): Series[] => {
    const points = dated.flatMap((r, i) => (r.simulated === simulated ? [[i + 1, r.headline.t_mid_s!] as const] : []))
    return points.length
      ? [
          {
            name: simulated ? 'simulated' : 'real',
            unit: 's',
            points,
            colour: simulated ? 'var(--line-strong)' : 'var(--ink)',
            kind: 'dots',
          },
        ]
      : []
  })
  return (
    <PlotHeight value={150}>
      <XYPlot
        question="How has it changed?"
        answer={`From ${first.toFixed(2)} s to ${last.toFixed(2)} s in the middle, over ${dated.length} readings.`}
        x={{
          name: 'reading, in order',
          unit: 'number',
          domain: [0.5, dated.length + 0.5],
          ticks: dated.map((_, i) => i + 1),
        }}
        y={{ name: 'time to fade', unit: 's', domain: [0, top], ticks: [0, top / 2, top], text: (v) => v.toFixed(1) }}
        series={series}
        fileName="decay-over-time"
      />
    </PlotHeight>
  )
}
