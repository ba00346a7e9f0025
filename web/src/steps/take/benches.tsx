import { cache, roomChanged } from '../../api/cache'
import { ofBoth, ofReading } from '../../api/queries'
import { type ReactNode, useState } from 'react'
import { $api, type Reading, type ResultOf, type Schemas } from '../../api/client'
import { bleedIn, tagReading } from '../../api/queries'
import { BenchCard } from '../../rooms/bench-card'
import { useCatalogue } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { TextField } from '../../ui/fields'
import { Failed } from '../../ui/notice'
import { partOf, PlayPart } from '../../ui/play-part'
import { Segmented } from '../../ui/segmented'
import { Select } from '../../ui/select'
import { AskWithFile } from './ask-with-file'
import { BlindBench } from './blind-bench'
import { PhonesBench } from './phones-bench'
import { earsKept } from './ears'
import { clock } from './span'
import { Underneath } from './underneath'
import { nameOfTake, useTakes } from './use-takes'

type Take = Reading & { result: ResultOf<'take'> }
const BENCHES = [
  { key: 'blind', name: 'Blind' },
  { key: 'lines', name: 'Line by line' },
  { key: 'mine', name: 'Against my line' },
  { key: 'mix', name: 'In the mix' },
  { key: 'trials', name: 'Trials' },
  { key: 'phones', name: 'In the phones' },
  { key: 'keep', name: 'Name and keep' },
] as const
type Key = (typeof BENCHES)[number]['key']

const minus = (value: number, digits = 1) =>
  value
    .toFixed(digits)
    .replace(/^-(?=0\.?0*$)/, '')
    .replace('-', '−')
const signed = (value: number, digits = 1) => `${Number(value.toFixed(digits)) > 0 ? '+' : ''}${minus(value, digits)}`

/** What can be done with a take besides listening to it, one at a time. */
export function TakeBenches({ take }: { take: Take }) {
  const [bench, setBench] = useState<Key>('blind')
  const shown: Record<Key, ReactNode> = {
    blind: <BlindBench take={take.id} />,
    lines: <ByLine take={take} />,
    mine: <AgainstMine take={take} />,
    mix: <InTheMix take={take} />,
    trials: <Trials take={take} />,
    phones: <PhonesBench take={take.id} />,
    keep: <Keep take={take} />,
  }
  return (
    <BenchCard className="shrink-0 pb-3">
      <Segmented label="What to do with this take" small value={bench} options={BENCHES} onChange={setBench} />
      <div className="mt-2.5">{shown[bench]}</div>
    </BenchCard>
  )
}

function TakeChoice({
  label,
  without,
  value,
  onChange,
}: {
  label: string
  without: string
  value: string | null
  onChange: (id: string) => void
}) {
  const takes = useTakes()
  return (
    <div className="max-w-sm min-w-0 flex-1">
      <Select
        label={label}
        value={value ?? ''}
        options={takes
          .filter((r) => r.id !== without)
          .map((r) => ({
            key: r.id,
            name: nameOfTake(r, takes),
            hint: `${r.headline.said}${r.simulated ? ', simulated' : ''}`,
          }))}
        onChange={onChange}
      />
    </div>
  )
}

function Busy({ query, words }: { query: { isPending: boolean; error: unknown }; words: string }) {
  if (query.error) return <Failed error={query.error} />
  return query.isPending ? (
    <p role="status" className="text-note text-ink-2">
      {words}
    </p>
  ) : null
}

/** The best of two takes, line by line, equally loud. */
function ByLine({ take }: { take: Take }) {
  const takes = useTakes()
  const [chosen, setChosen] = useState<string | null>(null)
  const other = chosen ?? takes.find((r) => r.id !== take.id)?.id ?? null
  const found = $api.useQuery('get', '/api/readings/{reading_id}/by-line/{other_id}', ofBoth(take.id, other ?? ''), {
    enabled: other !== null,
  })
  return (
    <div data-testid="by-line">
      <h3 className="text-head leading-tight">Which lines of which take?</h3>
      {other === null ? (
        <p className="text-note text-ink-2">Sing it again: two takes are held against each other line by line.</p>
      ) : (
        <>
          <p className="text-note text-ink-2" role="status">
            {found.data ? `A is this take. ${found.data.text}` : 'A is this take, B the other.'}
          </p>
          <div className="mt-1.5 flex">
            <TakeChoice label="B" without={take.id} value={other} onChange={setChosen} />
          </div>
          <Busy query={found} words="Holding the lines against each other" />
          {found.data?.lines.length ? (
            <ol className="mt-1.5 text-note">
              {found.data.lines.map((line, i) => {
                const cut = found.data.joins.find((j) => j.after === i)
                return (
                  <li key={line.a[0]} className="border-b border-line py-1 last:border-0">
                    <div className="flex flex-wrap items-center gap-x-3">
                      <span className="w-14 font-semibold">Line {i + 1}</span>
                      <PlayPart
                        address={`${partOf(take.id, line.a[0], line.a[1])}&level=false`}
                        label={`line ${i + 1} of A`}
                        name="A"
                        volume={Math.min(10 ** (-line.gain_db / 20), 1)}
                      />
                      <PlayPart
                        address={`${partOf(other, line.b[0], line.b[1])}&level=false`}
                        label={`line ${i + 1} of B`}
                        name="B"
                        volume={Math.min(10 ** (line.gain_db / 20), 1)}
                      />
                      <span className="tabular-nums">
                        B{' '}
                        {Math.abs(line.gain_db) < 0.05
                          ? 'as loud'
                          : `${minus(Math.abs(line.gain_db))} dB ${line.gain_db > 0 ? 'quieter' : 'louder'}`}
                        , bass {signed(line.bass_db)}, treble {signed(line.treble_db)} dB
                      </span>
                      <strong className="ml-auto text-felt">
                        {line.better ? `${line.better.toUpperCase()} is cleaner` : 'alike'}
                      </strong>
                    </div>
                    {line.faults_a.length + line.faults_b.length ? (
                      <p className="text-small text-change">
                        {line.faults_a.length ? `A: ${line.faults_a.map((f) => f.name).join(', ')}. ` : ''}
                        {line.faults_b.length ? `B: ${line.faults_b.map((f) => f.name).join(', ')}.` : ''}
                      </p>
                    ) : null}
                    {cut ? <p className="text-small text-ink-2">Cut here: {cut.text}</p> : null}
                  </li>
                )
              })}
            </ol>
          ) : null}
        </>
      )}
    </div>
  )
}

/** Held against the performer's own line: nearer, turned, boomy, tuned otherwise; and what leaks. */
function AgainstMine({ take }: { take: Take }) {
  const { id } = useRoom()
  const takes = useTakes()
  const [chosen, setChosen] = useState<string | null>(null)
  const found = $api.useQuery('get', '/api/readings/{reading_id}/against', {
    params: { path: { reading_id: take.id }, query: chosen ? { line_id: chosen } : {} },
  })
  const mine = takes.find((r) => r.tags.includes('line'))
  const here = takes.find((r) => r.id === take.id)
  const keep = async () => {
    if (mine && mine.id !== take.id)
      await tagReading(
        mine.id,
        mine.tags.filter((t) => t !== 'line'),
      )
    await tagReading(take.id, [...(here?.tags ?? []).filter((t) => t !== 'line'), 'line'])
    await roomChanged(id)
    await cache.invalidateQueries({ queryKey: ['get', '/api/readings/{reading_id}/against'] })
  }
  const data = found.data
  return (
    <div data-testid="against-mine">
      <h3 className="text-head leading-tight">Do you stand as you stood?</h3>
      <p className="text-note text-ink-2" role="status">
        {data
          ? data.text
          : found.isPending
            ? 'Holding it against your line'
            : 'Your own line is one sung as it should be, at the gain that stays. Make this take that line, then sing again.'}
      </p>
      <div className="mt-1.5 flex flex-wrap items-end gap-3">
        <TakeChoice label="Your line" without={take.id} value={chosen ?? data?.line_id ?? null} onChange={setChosen} />
        <Button small onClick={() => void keep()} disabled={here?.tags.includes('line')}>
          {here?.tags.includes('line') ? 'This take is your line' : 'Make this take my line'}
        </Button>
      </div>
      {found.error ? <Busy query={found} words="" /> : null}
      {data && !data.other ? (
        <dl className="mt-2 grid grid-cols-2 gap-x-6 text-note sm:grid-cols-3">
          {(
            [
              ['Level', data.level_db, 'dB'],
              ['Bass below 300 Hz', data.bass_db, 'dB'],
              ['Treble', data.treble_db, 'dB'],
              ['Direct over room', data.direct_over_room_db, 'dB'],
              ['Tuning', data.cents, 'cents'],
            ] as const
          ).map(([name, value, unit]) => (
            <div key={name} className="flex justify-between gap-2 border-b border-line py-1">
              <dt className="text-ink-2">{name}</dt>
              <dd className="font-semibold tabular-nums">
                {value == null ? 'cannot be told' : `${signed(value)} ${unit}`}
              </dd>
            </div>
          ))}
        </dl>
      ) : null}
      {data?.findings.map((f) => (
        <p key={f.kind} className="mt-1 text-small text-change">
          {f.cure.replace(/-(?=\d)/g, '−')}
        </p>
      ))}
      <BackingBleed take={take} />
    </div>
  )
}

function BackingBleed({ take }: { take: Take }) {
  return (
    <div className="mt-2.5 border-t border-line pt-2">
      <p className="text-note">
        <strong>Is the backing heard?</strong>{' '}
        <span className="text-ink-2">Bring the song that was in the headphones.</span>
      </p>
      <AskWithFile<Schemas['BleedAnswer']>
        label="The backing track"
        choose="Choose the backing track"
        busy="Looking for it in the pauses"
        ask={(file) => bleedIn(take.id, file)}
        said={(found) => `${found.text} ${found.findings.map((f) => f.cure).join(' ')}`}
      />
    </div>
  )
}

/** What is quiet now and raised later. */
function InTheMix({ take }: { take: Take }) {
  const later = take.result.later
  const heard = earsKept().noise
  const rows = later
    ? ([
        ['Noise under you, A-weighted', later.noise_db],
        ['Direct sound over the room', later.room_db],
        ['Sharpest esses over the vowels', later.esses_db],
      ] as const)
    : []
  return (
    <div data-testid="in-the-mix">
      <h3 className="text-head leading-tight">What will the mix bring up?</h3>
      <p className="text-note text-ink-2">
        {later?.words ?? 'This take was read before this was asked: bring it again.'}
      </p>
      {later ? (
        <table className="mt-1.5 w-full max-w-2xl text-note">
          <thead>
            <tr className="text-left text-ink-2">
              <th className="py-1 font-normal">dB</th>
              {['as recorded', 'squeezed by 10 dB', 'and brightened'].map((name) => (
                <th key={name} className="py-1 text-right font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(([name, values]) => (
              <tr key={name} className="border-t border-line">
                <th className="py-1 text-left font-normal">{name}</th>
                {[0, 1, 2].map((i) => (
                  <td key={i} className="py-1 text-right font-semibold tabular-nums">
                    {values ? minus(values[i]!) : 'cannot be told'}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      <p className="mt-1 text-small text-ink-2">
        {heard === undefined || !later?.noise_db
          ? ''
          : `You hear noise down to ${minus(-heard, 0)} dB under you: ${later.noise_db[0]! > -heard ? 'this take’s is below that as recorded' : 'you would hear this take’s as it is'}. `}
        Brightened: 6 dB more from 4 kHz on. Each layer adds its own noise: two of them 3 dB, four 6 dB.
      </p>
      <Underneath take={take.id} />
    </div>
  )
}

const SERIES = [
  { key: 'distance', name: 'Distance' },
  { key: 'angle', name: 'Angle' },
  { key: 'round', name: 'Round it' },
  { key: 'behind', name: 'Shield or soft' },
  { key: 'blankets', name: 'Blankets' },
  { key: 'gains', name: 'Two gains' },
  { key: 'phones', name: 'Headphones' },
] as const

/** A guided series: the same line, one thing changed at a time, predicted beside measured. */
function Trials({ take }: { take: Take }) {
  const { id, active } = useRoom()
  const takes = useTakes()
  const [series, setSeries] = useState<(typeof SERIES)[number]['key']>('distance')
  const found = $api.useQuery('get', '/api/rooms/{room_id}/trials/{series}', {
    params: { path: { room_id: id, series }, query: { arrangement_id: active.id } },
  })
  const here = takes.find((r) => r.id === take.id)
  const assign = async (step: string) => {
    const tag = `${series}:${step}`
    for (const r of takes.filter((r) => r.tags.includes(tag)))
      await tagReading(
        r.id,
        r.tags.filter((t) => t !== tag),
      )
    await tagReading(take.id, [...(here?.tags ?? []).filter((t) => !t.startsWith(`${series}:`)), tag])
    await roomChanged(id)
  }
  const columns = Object.entries(found.data?.columns ?? {})
  return (
    <div data-testid="trials">
      <Segmented label="Series" small value={series} options={SERIES} onChange={setSeries} />
      <h3 className="mt-2 text-head leading-tight">{found.data?.name ?? 'Trials'}</h3>
      <p className="text-note text-ink-2">{found.data?.say}</p>
      <Busy query={found} words="Predicting each step in this room" />
      {found.data ? (
        <>
          <div className="overflow-x-auto">
            <table className="mt-1.5 w-full text-note">
              <thead>
                <tr className="text-left text-ink-2">
                  <th className="py-1 pr-3 font-normal">step</th>
                  {columns.map(([key, name]) => (
                    <th key={key} className="py-1 pr-3 text-right font-normal">
                      {name}, dB
                    </th>
                  ))}
                  <th />
                </tr>
              </thead>
              <tbody>
                {found.data.steps.map((step) => (
                  <tr key={step.key} className="border-t border-line align-top">
                    <th className="py-1 pr-3 text-left font-semibold">{step.name}</th>
                    {columns.map(([key]) => (
                      <td key={key} className="py-1 pr-3 text-right tabular-nums">
                        <span className="text-change">{signed(step.predicted[key] ?? 0)}</span>
                        {step.measured ? (
                          <strong className="block">
                            {step.measured[key] === undefined ? '–' : signed(step.measured[key])}
                          </strong>
                        ) : null}
                      </td>
                    ))}
                    <td className="py-1 text-right">
                      <Button
                        small
                        look="quiet"
                        onClick={() => void assign(step.key)}
                        aria-pressed={step.reading_id === take.id}
                      >
                        {step.reading_id === take.id ? 'this take' : 'This take is it'}
                      </Button>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <p className="mt-1 text-small text-ink-2">
            <span className="text-change">Predicted</span>, <strong>measured</strong>, against the first step.{' '}
            {found.data.text}
          </p>
        </>
      ) : null}
    </div>
  )
}

/** Song and section, labels, one page, the recording itself. */
function Keep({ take }: { take: Take }) {
  const { id } = useRoom()
  const here = useTakes().find((r) => r.id === take.id)
  const plain = (here?.tags ?? []).filter((t) => t !== 'line' && !t.includes(':'))
  const rest = (here?.tags ?? []).filter((t) => t === 'line' || t.includes(':'))
  const put = async (song: string, section: string) => {
    const words = [song.trim() || (section.trim() ? 'take' : ''), section.trim()].filter(Boolean)
    await tagReading(take.id, [...words, ...rest])
    await roomChanged(id)
    setSong(null)
    setSection(null)
  }
  const [song, setSong] = useState<string | null>(null)
  const [section, setSection] = useState<string | null>(null)
  const { findings } = useCatalogue()
  const beside = $api.useQuery('get', '/api/readings/{reading_id}/beside', ofReading(take.id))
  const lines = take.result.phrases?.length ?? 0
  const files = [
    ['original', 'The recording, bit for bit'],
    ['labels.txt', 'Label track, plain text'],
    ['labels.csv', 'Findings as a table'],
    ['take.pdf', 'One page to print'],
  ] as const
  return (
    <div data-testid="keep">
      <h3 className="text-head leading-tight">What is it called, and what goes with it?</h3>
      <p className="text-note text-ink-2">
        Files are named SONG-SECTION-NN; every take counts on, so none overwrites another. {clock(take.seconds)},{' '}
        {lines} lines, {take.result.findings.length} of {findings.length} kinds of faults.
      </p>
      <div className="mt-1.5 grid max-w-xl grid-cols-2 gap-3">
        <TextField label="Song" value={song ?? plain[0] ?? ''} onChange={setSong} />
        <TextField label="Section" value={section ?? plain[1] ?? ''} onChange={setSection} />
      </div>
      <Button
        small
        className="mt-1.5"
        disabled={song === null && section === null}
        onClick={() => void put(song ?? plain[0] ?? '', section ?? plain[1] ?? '')}
      >
        Name it
      </Button>
      <p className="mt-2 text-note text-ink-2" role="status">
        {beside.data === undefined
          ? ''
          : beside.data.length
            ? `Goes with it. ${beside.data.map((kept) => kept.text).join(' ')}`
            : 'No silence and no reading of the room within half a day: take ten seconds of room tone now, it mends every cut.'}
      </p>
      <ul className="mt-2 flex flex-wrap gap-2">
        {files.map(([file, name]) => (
          <li key={file}>
            <a
              href={`/api/readings/${take.id}/${file}`}
              download
              className="inline-flex min-h-8 items-center rounded-full border border-ink-2 px-3 text-small font-semibold hover:bg-floor"
            >
              {name}
            </a>
          </li>
        ))}
      </ul>
    </div>
  )
}
