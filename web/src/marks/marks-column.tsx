import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react'
import { useQuery } from '@tanstack/react-query'
import type { Forecast, MarkKey, Measured } from '../api/client'
import { roomQueries } from '../api/queries'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import { useUnits } from '../state/units'
import { Notice } from '../ui/notice'
import { DIGITS, figure, ORDER, predictedPeak } from './scales'
import { BeadString } from './string'
import { whyRows } from './why'

/** The four marks, always in sight. */
export function MarksColumn() {
  const { id, document, trying } = useRoom()
  const { active, standing, trouble } = usePredicted()
  const { data: measured } = useQuery(roomQueries.measured(id))
  if (trouble && !active) return <Notice tone="stop" title={trouble.title} body={trouble.cure} />
  if (!active)
    return <div className="h-80 animate-pulse rounded-xl bg-floor" aria-label="The marks are being worked out" />
  return (
    <section aria-label="The four marks" data-testid="marks">
      {trouble ? <Notice tone="stop" title={trouble.title} body={trouble.cure} /> : null}
      {document.fit ? (
        <p className="text-[0.8rem] font-semibold text-felt">Predictions fitted to your readings</p>
      ) : null}
      {document.guessed ? <p className="text-[0.8rem] font-semibold text-change">From guessed sizes: wide ±</p> : null}
      {ORDER.map((mark) => (
        <Mark key={mark} mark={mark} active={active} standing={trying ? standing : null} measured={measured} />
      ))}
    </section>
  )
}

type MarkProps = { mark: MarkKey; active: Forecast; standing: Forecast | null; measured: Measured | undefined }

function Mark({ mark, active, standing, measured }: MarkProps) {
  const units = useUnits()
  const now = active.marks[mark]
  const last = measured?.[mark] ?? null
  const value = mark === 'touch' ? predictedPeak(measured, active, standing) : now.value
  const former = standing ? (mark === 'touch' ? (last?.value ?? null) : standing.marks[mark].value) : null
  const plusMinus = now.plus_minus ?? 1
  const moved = former !== null && value !== null && Math.abs(former - value) >= 0.5 * 10 ** -DIGITS[mark]
  return (
    <Disclosure as="div" className="border-b border-line py-1.5 last:border-0" data-testid={`mark-${mark}`}>
      <div className="flex items-baseline justify-between gap-3">
        <h3 className="text-[1.06rem]">{now.name}</h3>
        <p className="text-right font-display leading-none">
          {former !== null && moved ? (
            <>
              <span className="text-[1.2rem] font-semibold">{figure(mark, former)}</span>
              <span className="px-1.5 text-ink-2" aria-label="becomes">
                →
              </span>
            </>
          ) : null}
          {value === null ? (
            <span className="text-sm text-ink-2">no take yet</span>
          ) : (
            <>
              <span className={`text-[1.2rem] font-bold ${moved ? 'text-change' : ''}`} data-value={value}>
                {figure(mark, value)}
              </span>
              {mark === 'touch' ? null : (
                <span className="text-xs text-ink-2"> ±{plusMinus.toFixed(DIGITS[mark] || 0)}</span>
              )}
            </>
          )}
          <span className="font-text text-[0.8rem] text-ink-2">
            {' '}
            {now.unit} {now.meaning}
          </span>
        </p>
      </div>
      <BeadString
        mark={mark}
        measured={last}
        predicted={value === null ? null : { value, plusMinus }}
        former={former}
        wanted={now.wanted}
      />
      <div className="mt-0.5 flex items-start justify-between gap-2">
        <p className="text-[0.85rem] leading-tight text-ink-2">{now.sentence}</p>
        <DisclosureButton className="shrink-0 rounded px-1 text-[0.82rem] font-semibold text-ink-2 underline decoration-line-strong underline-offset-2 hover:text-ink">
          Why?
        </DisclosureButton>
      </div>
      <DisclosurePanel className="mt-1.5 rounded-lg bg-paper px-3 py-2 text-[0.84rem]">
        <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5">
          <dt className="text-ink-2">Measured</dt>
          <dd className="text-right">{measuredWords(mark, last, now.unit)}</dd>
          {value === null ? null : (
            <>
              <dt className="text-ink-2">Predicted with this arrangement</dt>
              <dd className="text-right">
                {figure(mark, value)} {now.unit} ±{plusMinus.toFixed(DIGITS[mark])}
              </dd>
            </>
          )}
          <dt className="text-ink-2">Wanted</dt>
          <dd className="text-right">{wantedWords(mark, now.wanted, now.unit)}</dd>
          {[...whyRows(mark, active, units), ...popRows(mark, last)].map(([label, text]) => (
            <div key={label} className="contents">
              <dt className="text-ink-2">{label}</dt>
              <dd className="text-right">{text}</dd>
            </div>
          ))}
        </dl>
        <p className="mt-1.5 text-[0.8rem] text-ink-2">Wanted value from: {now.wanted.source}.</p>
      </DisclosurePanel>
    </Disclosure>
  )
}

/** Pop words add what breath did to the microphone. */
function popRows(mark: MarkKey, last: NonNullable<Measured['bounce']> | null): [string, string][] {
  if (mark !== 'touch' || typeof last?.pops !== 'number') return []
  return [
    [
      'Pops in the pop words',
      last.pops === 0 ? 'none' : `${last.pops}, up to ${(last.pop_db ?? 0).toFixed(0)} dB over the low end`,
    ],
  ]
}

function measuredWords(mark: MarkKey, last: NonNullable<Measured['bounce']> | null, unit: string): string {
  if (!last) return 'not yet'
  const where = [last.simulated ? 'simulated' : '', last.stale ? 'before the last change' : '']
    .filter(Boolean)
    .join(', ')
  return `${figure(mark, last.value)} ${unit} ±${last.plus_minus.toFixed(DIGITS[mark])}${where ? ` (${where})` : ''}`
}

function wantedWords(mark: MarkKey, wanted: { low?: number | null; high?: number | null }, unit: string): string {
  const [low, high] = [wanted.low ?? null, wanted.high ?? null]
  if (low !== null && high !== null) return `${figure(mark, low)} to ${figure(mark, high)} ${unit}`
  if (low !== null) return `${figure(mark, low)} ${unit} or more`
  return `${figure(mark, high ?? 0)} ${unit} or less`
}

/** The four strings as one compact row, for phones. */
export function MarksRow() {
  const { id, trying } = useRoom()
  const { active, standing } = usePredicted()
  const { data: measured } = useQuery(roomQueries.measured(id))
  if (!active) return null
  return (
    <div className="grid grid-cols-4 gap-2.5" aria-label="The four marks, in brief">
      {ORDER.map((mark) => {
        const now = active.marks[mark]
        const former = trying ? standing : null
        const value = mark === 'touch' ? predictedPeak(measured, active, former) : now.value
        return (
          <div key={mark}>
            <p className="flex items-baseline justify-between font-display text-[0.82rem] font-semibold">
              <span>{now.name}</span>
            </p>
            <BeadString
              mark={mark}
              width={84}
              compact
              measured={measured?.[mark] ?? null}
              predicted={value === null ? null : { value, plusMinus: now.plus_minus ?? 1 }}
              former={former && mark !== 'touch' ? former.marks[mark].value : null}
              wanted={now.wanted}
            />
            <p className="text-[0.78rem] text-ink-2">{value === null ? '–' : `${figure(mark, value)} ${now.unit}`}</p>
          </div>
        )
      })}
    </div>
  )
}
