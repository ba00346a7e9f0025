import { useState } from 'react'
import type { MarkKey, Reading, ResultOf } from '../../api/client'
import { NextMoves } from '../../moves/next-moves'
import { Button } from '../../ui/button'
import { useBest } from '../../bench/use-best'
import { ReadingRows } from '../../listen/reading-rows'
import { TakeReading } from '../../listen/take-reading'
import { useDesk } from '../../rooms/use-desk'
import { useCatalogue } from '../../state/catalogue'
import { partOf, PlayPart } from '../../ui/play-part'
import { Choose } from './choose'
import { clock } from './span'

/** What was found, worst first, each to be heard and with its cure; the figures; the takes. */
export function TakeSide() {
  const { reading: chosen } = useDesk()
  const reading = useBest('take', chosen)
  if (reading === undefined)
    return (
      <p role="status" className="min-h-[52rem]">
        Opening the take
      </p>
    )
  return (
    <div className="space-y-4">
      {reading && typeof reading.result.true_peak_dbtp === 'number' ? (
        <>
          <Choose takeId={reading.id} />
          <Found id={reading.id} seconds={reading.seconds} take={reading.result} />
          <Sections take={reading.result} />
          <Figures take={reading.result} simulated={reading.simulated} />
          <MovesAgainst take={reading.result} />
        </>
      ) : null}
      <TakeReading form="take" />
      <NothingArrives />
      <ReadingRows form="take" fallback={reading?.id ?? null} />
    </div>
  )
}

/** In the order in which they matter. */
const GROUPS = [
  { key: 'lost', name: 'Cannot be mended' },
  { key: 'mendable', name: 'Can be mended, better not made' },
  { key: 'taste', name: 'A matter of taste' },
] as const
/** The mark that a finding's cure in the room moves, and so the moves that are offered against it. */
const MARK_OF: Record<string, MarkKey> = {
  roomy: 'bounce',
  hum: 'hush',
  tone: 'hush',
  hiss: 'hush',
  rumble: 'hush',
  floor: 'hush',
  noise: 'hush',
  click_track: 'hush',
  boomy: 'boom',
}
const SHOWN = 6
/** What a verdict's reason is called among the findings, where the names differ. */
const TOLD_AS: Record<string, string> = { dc_offset: 'dc', flat_topped: 'flat_top' }

function Found({ id, seconds, take }: { id: Reading['id']; seconds: number; take: ResultOf<'take'> }) {
  const { findings } = useCatalogue()
  const [all, setAll] = useState(false)
  const order = findings.map((k) => k.key)
  const mixed = take.verdict.reasons.some((reason) => reason.code === 'mixed')
  const notTold = ({ code }: { code: string }) => !take.findings.some((f) => f.kind === (TOLD_AS[code] ?? code))
  const groups = GROUPS.map(({ key, name }) => ({
    name,
    found: take.findings
      .filter((f) => findings.find((k) => k.key === f.kind)?.group === key)
      .sort((a, b) => order.indexOf(a.kind) - order.indexOf(b.kind) || a.start_s - b.start_s),
  })).filter((g) => g.found.length > 0)
  return (
    <section data-testid="take-found">
      <h2 className="text-head">{take.keep_words || 'Found, worst first'}</h2>
      {take.verdict.reasons.filter(notTold).map((reason) => (
        <p key={reason.code} className="text-note">
          {reason.text} <span className="text-ink-2">{reason.cure}</span>
        </p>
      ))}
      {groups.length === 0 ? (
        mixed ? null : (
          <p className="text-note text-ink-2">
            Nothing that spoils takes was found: no puff, no cut peak, no lost moment, no hum, no cut.
          </p>
        )
      ) : (
        groups.map(({ name, found }) => (
          <div key={name}>
            <h3 className="pt-1 text-note text-ink-2">{name}</h3>
            <ol>
              {found.slice(0, all ? undefined : SHOWN).map((f) => {
                const whole = f.end_s - f.start_s > 0.9 * seconds
                const [from, to] = whole
                  ? [0, Math.min(seconds, 6)]
                  : [Math.max(f.start_s - 0.5, 0), Math.min(f.end_s + 0.5, seconds)]
                return (
                  <li key={`${f.kind}-${f.start_s}`} className="border-b border-line py-1.5 last:border-0">
                    <div className="flex items-center justify-between gap-2">
                      <p className="min-w-0 text-note font-semibold">
                        {findings.find((w) => w.key === f.kind)?.name ?? f.kind}{' '}
                        <span className="font-normal text-ink-2">
                          {whole ? 'all along' : `at ${clock(f.start_s)}`}
                          {f.unit
                            ? `, ${Number(f.value.toFixed(f.unit === 's' ? 2 : 0))} ${f.unit}`.replace('-', '−')
                            : ''}
                        </span>
                      </p>
                      <PlayPart
                        address={`${partOf(id, from, to)}&level=false`}
                        label={`${f.kind} at ${f.start_s.toFixed(1)} seconds`}
                      />
                    </div>
                    <p className="text-small text-change">{f.cure.replace(/-(?=\d)/g, '−')}</p>
                    {f.measure ? (
                      <details className="text-small text-ink-2">
                        <summary className="cursor-pointer">How sure?</summary>
                        Told by this: {f.measure}. Sure to about {Math.round(100 * f.confidence)} %, our estimate.
                      </details>
                    ) : null}
                  </li>
                )
              })}
            </ol>
            {!all && found.length > SHOWN ? (
              <Button small look="quiet" onClick={() => setAll(true)}>
                {found.length - SHOWN} more
              </Button>
            ) : null}
          </div>
        ))
      )}
    </section>
  )
}

/** The cures that this room offers: tried, done and proved like all other moves. */
function MovesAgainst({ take }: { take: ResultOf<'take'> }) {
  const marks = [...new Set(take.findings.flatMap((f) => MARK_OF[f.kind] ?? []))]
  return marks.length ? <NextMoves title="Moves against it, in this room" against={marks} most={3} /> : null
}

/** Nothing arrives: what to ask first. */
function NothingArrives() {
  const { nothing_arrives: tree } = useCatalogue()
  return (
    <details className="text-note" data-testid="nothing-arrives">
      <summary className="cursor-pointer font-semibold">Nothing arrives, or hardly anything?</summary>
      <ol className="mt-1 list-decimal pl-5">
        {tree.map(({ key, question, cure }) => (
          <li key={key} className="py-0.5">
            <span className="font-semibold">{question}</span> <span className="text-ink-2">{cure}</span>
          </li>
        ))}
      </ol>
    </details>
  )
}

/** Gain by section: one where 12 dB hold the take, else steps. */
function Sections({ take }: { take: ResultOf<'take'> }) {
  const sections = take.sections ?? []
  if (sections.length < 2) return null
  const one = sections[0]!.gain_db
  if (sections.every((s) => s.gain_db === one))
    return (
      <section data-testid="take-sections">
        <h2 className="text-head">Gain by section</h2>
        <p className="text-note">
          {one === 0 ? 'Leave it: one gain' : `${gainOf(one)} throughout: one gain`} holds all {sections.length}{' '}
          sections, their peaks lie within 12 dB.
        </p>
      </section>
    )
  return (
    <section data-testid="take-sections">
      <h2 className="text-head">Gain by section</h2>
      <ol className="text-note tabular-nums">
        {sections.map((s) => (
          <li key={s.start_s} className="flex justify-between border-b border-line py-1 last:border-0">
            <span className="text-ink-2">
              {clock(s.start_s)} to {clock(s.end_s)}, peak {s.peak_dbfs.toFixed(0).replace('-', '−')} dBFS
            </span>
            <span className="font-semibold">{gainOf(s.gain_db)}</span>
          </li>
        ))}
      </ol>
    </section>
  )
}

const gainOf = (db: number) => (db === 0 ? 'leave' : `${db > 0 ? '+' : '−'}${Math.abs(db)} dB`)

function Figures({ take, simulated }: { take: ResultOf<'take'>; simulated: boolean }) {
  const dbfs = (value: number | null | undefined) =>
    value == null ? 'no pause to read it' : `${value.toFixed(1).replace('-', '−')} dBFS`
  const rows: [string, string, string][] = [
    ['Loudest peak', dbfs(take.true_peak_dbtp), 'wanted −12 to −6'],
    ['Average while sounding', dbfs(take.average_dbfs), 'wanted about −18'],
    ['Noise floor between phrases', dbfs(take.noise_floor_dbfs), ''],
    ['Noise under the performance', take.snr_db == null ? '–' : `${take.snr_db.toFixed(0)} dB`, 'A-weighted'],
    [
      'Ends of phrases fade in',
      take.fades_s == null ? 'cannot be told' : `${take.fades_s.toFixed(2)} s`,
      'the room behind you',
    ],
    [
      'Direct sound over the room',
      take.direct_over_room_db == null
        ? 'cannot be told'
        : `${take.direct_over_room_db.toFixed(0).replace('-', '−')} dB`,
      take.sounds_at_m == null ? 'by the ends of phrases' : `±4 dB; sounds ${take.sounds_at_m.toFixed(1)} m away`,
    ],
    ['Loudness', take.loudness_lufs == null ? '–' : `${take.loudness_lufs.toFixed(1).replace('-', '−')} LUFS`, ''],
  ]
  const advice = take.gain_advice_db ?? 0
  return (
    <section data-testid="take-figures">
      <h2 className="text-head">
        {take.gain_words?.replace(/\.$/, '') || 'The level'}
        {simulated ? <span className="font-text text-small font-normal text-ink-2"> (simulated take)</span> : null}
      </h2>
      {advice < 0 && take.lowest_words ? <p className="text-small text-ink-2">{take.lowest_words}</p> : null}
      <dl className="mt-1">
        {rows.map(([label, value, note]) => (
          <div
            key={label}
            className="flex items-baseline justify-between gap-2 border-b border-line py-1 text-note last:border-0"
          >
            <dt className="text-ink-2">{label}</dt>
            <dd className="text-right font-semibold">
              {value} {note ? <span className="block text-fine font-normal text-ink-2">{note}</span> : null}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  )
}
