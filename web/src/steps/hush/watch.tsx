import { keepPreviousData, useMutation } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { $api, type Schemas } from '../../api/client'
import { cache } from '../../api/cache'
import { roomQueries } from '../../api/queries'
import { watches } from '../../api/watches'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Check, NumberField } from '../../ui/fields'
import { Failed } from '../../ui/notice'
import { PlayPart } from '../../ui/play-part'
import { Select } from '../../ui/select'
import { useWidth } from '../../plots/use-width'
import { useWatch } from './use-watch'

const WHY: Record<string, string> = {
  asked: '',
  disk: 'it stopped because the disk is full; what it heard until then is kept',
  microphone: 'it stopped because the microphone was gone',
  closed: 'it was left open and has been closed',
}
const UNITS = [
  { key: 'dBA', name: 'dB(A), sound pressure' },
  { key: 'dB', name: 'dB, unweighted' },
  { key: 'dBFS', name: 'dBFS, a recorder’s' },
]

const duration = (seconds: number) =>
  seconds >= 3600
    ? `${Math.floor(seconds / 3600)} h ${String(Math.floor((seconds % 3600) / 60)).padStart(2, '0')} min`
    : `${Math.floor(seconds / 60)} min`

/** Hours of listening: begin, go on after a reload, look at what passed and hear it. */
export function WatchBench() {
  const { id: roomId } = useRoom()
  const { list, open, going, paused, isOthers, begin, takeOver, stop, goOn } = useWatch()
  const [chosen, setChosen] = useState<string | null>(null)
  const shown = chosen ?? open?.id ?? list.data?.[0]?.id ?? null
  const refresh = () => cache.invalidateQueries(roomQueries.watches(roomId))
  const count = useMutation({
    mutationFn: ({ id, on }: { id: string; on: boolean }) => watches.count(id, on),
    onSettled: refresh,
  })
  const remove = useMutation({
    mutationFn: watches.remove,
    onSettled: async () => {
      setChosen(null)
      await refresh()
    },
  })
  return (
    <div className="grid gap-4 pb-3 lg:grid-cols-[minmax(0,1fr)_19rem]" data-testid="watch-bench">
      <div>
        <h3 className="text-head leading-tight">What passes while nobody listens?</h3>
        {shown ? (
          <WatchCurve id={shown} going={shown === open?.id && !paused} />
        ) : (
          <p className="text-note text-ink-2">
            Leave the microphone open for a night. Only levels are kept, and five seconds of sound where something
            passes; nothing leaves this machine.
          </p>
        )}
      </div>
      <div className="space-y-2.5">
        {open ? (
          <div className="rounded-xl border border-change bg-change-soft p-3" role="status">
            <p className="font-display text-title font-bold">
              {isOthers ? 'Another device listens' : paused ? 'Paused' : 'Listening'}
            </p>
            <p className="text-note tabular-nums">
              {duration(open.seconds)} heard{open.way === 'rig' ? ' (practice night, simulated)' : ''}
              {going.levelDba !== null ? ` · ${going.levelDba.toFixed(0).replace('-', '−')} dBFS now` : ''}
            </p>
            <p className="text-small text-ink-2 tabular-nums">
              {open.clips} sounds kept, {open.megabytes.toFixed(1)} MB
              {going.clipsFull ? '; no more sounds are kept, levels go on' : ''}
            </p>
            {going.trouble && !isOthers ? (
              <p className="text-small font-semibold text-bounce">{going.trouble}</p>
            ) : null}
            <div className="mt-2 flex flex-wrap gap-2">
              {isOthers ? (
                <Button small look="warm" disabled={takeOver.isPending} onClick={() => takeOver.mutate()}>
                  Listen with this one instead
                </Button>
              ) : paused ? (
                <Button small look="warm" onClick={goOn}>
                  Go on
                </Button>
              ) : null}
              <Button small look="main" disabled={stop.isPending} onClick={() => stop.mutate()}>
                Stop the watch
              </Button>
            </div>
            <p className="mt-1.5 text-fine text-ink-2">
              {isOthers
                ? 'You look on; what it hears comes in here.'
                : 'Keep this page open and the machine awake. A reload goes on; a sleep leaves a gap.'}
            </p>
            <Failed error={stop.error ?? takeOver.error} />
          </div>
        ) : (
          <div className="flex flex-wrap gap-2">
            <Button look="main" disabled={begin.isPending} onClick={() => begin.mutate('browser')}>
              Watch with this microphone
            </Button>
            <Button disabled={begin.isPending} onClick={() => begin.mutate('rig')}>
              Practice night
            </Button>
          </div>
        )}
        <Failed error={begin.error} />
        <ul>
          {(list.data ?? []).map((w) => (
            <li
              key={w.id}
              className={`border-b border-line py-1.5 last:border-0 ${w.id === shown ? 'font-semibold' : ''}`}
            >
              <button className="w-full text-left text-note" onClick={() => setChosen(w.id)}>
                {w.name || new Date(w.started_at).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })}
                <span className="block text-fine font-normal text-ink-2">
                  {duration(w.seconds)}
                  {w.gaps ? `, ${w.gaps} gap${w.gaps === 1 ? '' : 's'}` : ''}
                  {w.way === 'rig' ? ', simulated' : w.way === 'import' ? ', brought' : ''}
                  {WHY[w.stopped_why] ? `; ${WHY[w.stopped_why]}` : ''}
                </span>
              </button>
              {w.id === shown ? (
                <div className="flex flex-wrap items-center gap-2 font-normal">
                  <Check
                    label="Counts for the hours"
                    checked={w.counts}
                    onChange={(on) => count.mutate({ id: w.id, on })}
                  />
                  {w.seconds > 0 ? (
                    <a
                      className="text-small font-semibold underline decoration-line-strong underline-offset-2"
                      href={`/api/watches/${w.id}/log.csv`}
                      download
                    >
                      as CSV
                    </a>
                  ) : null}
                  <Button small look="quiet" onClick={() => remove.mutate(w.id)}>
                    Put aside
                  </Button>
                </div>
              ) : null}
            </li>
          ))}
        </ul>
        <BringLog onBrought={refresh} />
      </div>
    </div>
  )
}

/** A log from elsewhere: what its numbers mean is asked. */
function BringLog({ onBrought }: { onBrought: () => void }) {
  const { id: roomId } = useRoom()
  const file = useRef<HTMLInputElement>(null)
  const [unit, setUnit] = useState('dBA')
  const [offset, setOffset] = useState(() => -new Date().getTimezoneOffset() / 60)
  const bring = useMutation({
    mutationFn: (chosen: File) => watches.bring(roomId, chosen, unit, Math.round(offset * 60)),
    onSuccess: onBrought,
  })
  return (
    <details className="border-t border-line pt-2">
      <summary className="cursor-pointer text-note font-semibold">Bring a log from a meter</summary>
      <div className="mt-2 space-y-2">
        <p className="text-small text-ink-2">A CSV with a column of times and one of levels.</p>
        <Select label="Its levels are" value={unit} options={UNITS} onChange={setUnit} />
        <NumberField
          label="Its clock is ahead of UTC by"
          unit="h"
          digits={1}
          value={offset}
          low={-12}
          high={14}
          onChange={setOffset}
        />
        <input
          ref={file}
          type="file"
          accept=".csv,text/csv"
          aria-label="The log's file"
          className="sr-only"
          onChange={(e) => {
            const chosen = e.target.files?.[0]
            if (chosen) bring.mutate(chosen)
            e.target.value = ''
          }}
        />
        <Button small onClick={() => file.current?.click()}>
          Choose the file
        </Button>
        <Failed error={bring.error} />
        {bring.data ? <p className="text-small">{duration(bring.data.seconds)} came in.</p> : null}
      </div>
    </details>
  )
}

const WATCHED_MS = 2000
const TOP = 8
const H = 150

type Watch = Schemas['WatchAnswer']

/** Level over the night: what is usual as a line, what passed as a needle over it; gaps stay empty. */
function WatchCurve({ id, going }: { id: string; going: boolean }) {
  const { data } = $api.useQuery(
    'get',
    '/api/watches/{watch_id}',
    { params: { path: { watch_id: id } } },
    { placeholderData: keepPreviousData, refetchInterval: going ? WATCHED_MS : false },
  )
  const { box, w } = useWidth()
  return (
    <>
      <p className="text-note text-ink-2">{data?.words ?? 'One moment'}</p>
      <div ref={box}>{data && data.at_ms.length > 1 ? <Curve watch={data} w={w} /> : null}</div>
      {data ? <Passed watch={data} /> : null}
    </>
  )
}

function Curve({ watch, w }: { watch: Watch; w: number }) {
  const [first, last] = [watch.at_ms[0]!, watch.at_ms.at(-1)! + watch.every_s * 1000]
  const known = [...watch.level_db, ...watch.loudest_db].filter((v): v is number => v !== null)
  const [low, high] = [Math.floor(Math.min(...known) / 10) * 10, Math.ceil(Math.max(...known) / 10) * 10]
  const x = (ms: number) => 40 + ((ms - first) / (last - first)) * (w - 50)
  const y = (db: number) => TOP + ((high - db) / Math.max(high - low, 1)) * (H - TOP - 24)
  const stepMs = watch.every_s * 1000
  const line = watch.level_db
    .map((v, i) =>
      v === null ? '' : `${i && watch.level_db[i - 1] !== null ? 'L' : 'M'}${x(watch.at_ms[i]! + stepMs / 2)} ${y(v)}`,
    )
    .join('')
  const hours = (last - first) / 3_600_000
  const everyH = [0.25, 0.5, 1, 2, 3, 6, 12, 24, 48].find((h) => hours / h <= 9) ?? 96
  const local = (ms: number) => ms + watch.offset_min * 60_000
  const start = Math.ceil(local(first) / (everyH * 3_600_000)) * everyH * 3_600_000
  const ticks = Array.from({ length: 10 }, (_, i) => start + i * everyH * 3_600_000 - watch.offset_min * 60_000).filter(
    (ms) => ms < last && x(ms) > 60, // beside the levels' own axis
  )
  const clockOf = (ms: number) => new Date(local(ms)).toISOString().slice(11, 16)
  return (
    <svg viewBox={`0 0 ${w} ${H}`} width={w} height={H} role="img" aria-label={`Level over time. ${watch.words}`}>
      {[low, (low + high) / 2, high].map((db) => (
        <g key={db}>
          <path d={`M40 ${y(db)}H${w - 10}`} stroke="var(--line)" />
          <text x={34} y={y(db) + 4} fontSize={11} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
            {db.toFixed(0).replace('-', '−')}
          </text>
        </g>
      ))}
      {ticks.map((ms) => (
        <text key={ms} x={x(ms)} y={H - 12} fontSize={11} textAnchor="middle" style={{ fill: 'var(--ink-2)' }}>
          {clockOf(ms)}
        </text>
      ))}
      <text x={w - 10} y={H - 1} fontSize={10.5} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
        local time; level in {watch.unit === 'dBFS' ? 'dBFS, A-weighted' : watch.unit}
      </text>
      {watch.loudest_db.map((v, i) =>
        v !== null && watch.level_db[i] !== null && v > watch.level_db[i]! + 3 ? (
          <path
            key={i}
            d={`M${x(watch.at_ms[i]! + stepMs / 2)} ${y(watch.level_db[i]!)}V${y(v)}`}
            stroke="var(--change)"
            strokeWidth={1.1}
          />
        ) : null,
      )}
      <path d={line} fill="none" stroke="var(--hush)" strokeWidth={1.8} strokeLinejoin="round" />
      {watch.quiet_db !== null && watch.quiet_db !== undefined ? (
        <path d={`M40 ${y(watch.quiet_db)}H${w - 10}`} stroke="var(--felt)" strokeDasharray="5 4" />
      ) : null}
    </svg>
  )
}

/** The loudest that passed, each with its sound when it was kept. */
function Passed({ watch }: { watch: Watch }) {
  const loudest = [...watch.passed].sort((a, b) => b.rise_db - a.rise_db).slice(0, 8)
  if (!loudest.length) return null
  return (
    <ol className="mt-1 grid gap-x-5 sm:grid-cols-2" aria-label="What passed, loudest first">
      {loudest.map((p) => (
        <li key={p.at_ms} className="flex items-center gap-2 border-b border-line py-0.5 text-small tabular-nums">
          <span className="min-w-0 flex-1">
            {new Date(p.at_ms + watch.offset_min * 60_000).toISOString().slice(11, 19)}, {p.seconds.toFixed(0)} s, +
            {p.rise_db.toFixed(0)} dB
          </span>
          {p.clip_ms !== null && p.clip_ms !== undefined ? (
            <PlayPart address={`/api/watches/${watch.id}/clips/${p.clip_ms}`} label="what passed" volume={0.8} />
          ) : null}
        </li>
      ))}
    </ol>
  )
}
