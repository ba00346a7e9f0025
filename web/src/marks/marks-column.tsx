import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react'
import type { Forecast, MarkKey, Marks } from '../api/client'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import { useDesk } from '../rooms/use-desk'
import { useUnits } from '../state/units'
import { Notice } from '../ui/notice'
import { DIGITS, figure, ORDER } from './scales'
import { BeadString } from './string'
import { whyRows } from './why'

type Mark = Marks[MarkKey]

/** The four marks, always in sight. Their places are kept free while they are worked out. */
export function MarksColumn() {
  const { document, trying } = useRoom()
  const { active, standing, trouble, isFresh } = usePredicted()
  if (trouble && !active) return <Notice tone="stop" title={trouble.title} body={trouble.cure} />
  return (
    <section aria-label="The four marks" aria-busy={!isFresh} data-testid={active ? 'marks' : 'marks-waiting'}>
      {trouble ? <Notice tone="stop" title={trouble.title} body={trouble.cure} /> : null}
      {document.fit ? <p className="text-fine font-semibold text-felt">Predictions fitted to your readings</p> : null}
      {document.guessed ? <p className="text-fine font-semibold text-change">From guessed sizes: wide ±</p> : null}
      {ORDER.map((mark) =>
        active ? (
          <Row key={mark} mark={mark} active={active} standing={trying ? standing : null} />
        ) : (
          <Waiting key={mark} mark={mark} />
        ),
      )}
    </section>
  )
}

export const NAMES: Record<MarkKey, string> = { bounce: 'Bounce', boom: 'Boom', hush: 'Hush', touch: 'Touch' }
const LINK =
  'shrink-0 rounded px-1 text-fine font-semibold text-ink-2 underline decoration-line-strong underline-offset-2 hover:text-ink'
const ROW = 'border-b border-line py-1 last:border-0'

/** The place of a mark that is still being worked out, as tall as the mark will be. */
function Waiting({ mark }: { mark: MarkKey }) {
  return (
    <div className={ROW}>
      <h3 className="h-[1.65rem] text-head">{NAMES[mark]}</h3>
      <div className="flex h-[25px] items-center">
        <div className="h-3 w-full animate-pulse rounded-full bg-floor" />
      </div>
      <p className="h-[1.1rem] text-fine text-ink-2">working it out</p>
      <div className="h-[1.25rem]" />
    </div>
  )
}

/** What a mark was before the move being tried: like beside like, the prediction where this one is predicted. */
export function formerOf(now: Mark, before: Mark | undefined): number | null {
  if (!before) return null
  // what is led over starts from what was measured; a model's figure is held against the model's
  return now.source === 'predicted' && !now.led ? (before.predicted?.value ?? before.value) : before.value
}

function Row({ mark, active, standing }: { mark: MarkKey; active: Forecast; standing: Forecast | null }) {
  const now = active.marks[mark]
  const former = formerOf(now, standing?.marks[mark])
  return (
    <Disclosure as="div" className={ROW} data-testid={`mark-${mark}`}>
      <div className="flex h-[1.65rem] items-baseline justify-between gap-3">
        <h3 className="text-head whitespace-nowrap">
          {now.name} <span className="font-text text-fine font-normal text-ink-2">{now.meaning}</span>
        </h3>
        <Value mark={mark} now={now} former={former} />
      </div>
      <BeadString mark={mark} measured={now.measured} predicted={now.predicted} former={former} wanted={now.wanted} />
      <p
        className="h-[1.1rem] truncate text-fine text-ink-2"
        data-testid={`source-${mark}`}
        title={sourceWords(mark, now, standing !== null)}
      >
        {sourceWords(mark, now, standing !== null)}
      </p>
      <div className="flex min-h-[2.4rem] items-baseline justify-between gap-2">
        <p className="text-small leading-snug">{now.sentence}</p>
        <Lacking now={now} />
        <DisclosureButton className={LINK}>Why?</DisclosureButton>
      </div>
      <DisclosurePanel className="mt-1.5 rounded-lg bg-paper px-3 py-2 text-small">
        <p className="mb-1.5 font-semibold">{now.sentence}</p>
        <Figures mark={mark} active={active} />
      </DisclosurePanel>
    </Disclosure>
  )
}

/** The button of the reading that a mark waits for. */
export function Lacking({ now }: { now: Mark }) {
  const { take } = useDesk()
  if (!now.lacks) return null
  const { kind, button } = now.lacks
  return (
    <button className={LINK} onClick={() => take(kind)}>
      {button}
    </button>
  )
}

/** The figures behind a mark, and where what is wanted comes from. */
export function Figures({ mark, active }: { mark: MarkKey; active: Forecast }) {
  const units = useUnits()
  const now = active.marks[mark]
  return (
    <>
      <dl className="grid grid-cols-[1fr_auto] gap-x-3 gap-y-0.5">
        {[
          ['Measured', measuredWords(mark, now)],
          ['Predicted with this arrangement', now.predicted ? both(mark, now.predicted, now.unit) : 'not yet'],
          ['Wanted', wantedWords(mark, now.wanted, now.unit)],
          ...whyRows(mark, active, units),
          ...popRows(now),
        ].map(([label, text]) => (
          <div key={label} className="contents">
            <dt className="text-ink-2">{label}</dt>
            <dd className="text-right">{text}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-1.5 font-semibold">Why this value?</p>
      <p className="text-fine">{now.wanted.why}</p>
      <p className="mt-0.5 text-fine text-ink-2">Source: {now.wanted.source}.</p>
    </>
  )
}

type ValueProps = { mark: MarkKey; now: Mark; former: number | null; small?: boolean }

export function Value({ mark, now, former, small = false }: ValueProps) {
  const size = small ? 'text-plain' : 'text-title'
  if (now.value === null)
    return <p className="text-right text-sm whitespace-nowrap text-ink-2">{nothingYet(mark, 'no take yet')}</p>
  const moved = former !== null && figure(mark, former) !== figure(mark, now.value)
  return (
    <p className="text-right font-display leading-none whitespace-nowrap">
      {moved ? (
        <>
          <span className={`${size} font-semibold`}>{figure(mark, former)}</span>
          <span className="px-1.5 text-ink-2" aria-label="becomes">
            →
          </span>
        </>
      ) : null}
      <span className={`${size} font-bold ${moved ? 'text-change' : ''}`} data-value={now.value}>
        {figure(mark, now.value)}
      </span>
      <span className="text-xs text-ink-2"> ±{(now.plus_minus ?? 0).toFixed(DIGITS[mark])}</span>
      <span className="font-text text-fine text-ink-2"> {now.unit}</span>
    </p>
  )
}

const both = (mark: MarkKey, found: { value: number; plus_minus: number }, unit: string) =>
  `${figure(mark, found.value)} ${unit} ±${found.plus_minus.toFixed(DIGITS[mark])}`

/** What stands in place of a figure that nobody has: noise is neither noted nor read, or nothing was recorded. */
export const nothingYet = (mark: MarkKey, otherwise: string): string => (mark === 'hush' ? 'not known' : otherwise)

/** Which of the two is shown, and the other beside it. */
export function sourceWords(
  mark: MarkKey,
  { source, measured, predicted, led, lacks }: Mark,
  isTrying = false,
): string {
  const rig = measured?.simulated ? ' (simulated)' : ''
  if (source === 'measured') return `measured${rig}${predicted ? ` · predicted ${figure(mark, predicted.value)}` : ''}`
  if (source === null) return lacks?.words ?? 'not measured yet'
  if (!measured) return 'predicted, not measured yet'
  const since = isTrying ? 'this move' : measured.since ? `${measured.since} changed` : 'a change'
  return led
    ? `predicted from ${figure(mark, measured.value)} measured before ${since}`
    : `predicted · measured ${figure(mark, measured.value)} before ${since}`
}

function measuredWords(mark: MarkKey, { measured, unit }: Mark): string {
  if (!measured) return 'not yet'
  const where = [
    measured.simulated ? 'simulated' : '',
    measured.current ? '' : `before ${measured.since ?? 'something'} changed`,
  ]
    .filter(Boolean)
    .join(', ')
  return `${both(mark, measured, unit)}${where ? ` (${where})` : ''}`
}

/** Pop words add what breath did to the microphone. */
function popRows({ measured }: Mark): [string, string][] {
  if (typeof measured?.pops !== 'number') return []
  const many = `${measured.pops}, up to ${(measured.pop_db ?? 0).toFixed(0)} dB over the low end`
  return [['Pops in the pop words', measured.pops === 0 ? 'none' : many]]
}

export function wantedWords(mark: MarkKey, wanted: Mark['wanted'], unit: string): string {
  const { low, high } = wanted
  if (low !== null && high !== null) return `${figure(mark, low)} to ${figure(mark, high)} ${unit}`
  if (low !== null) return `${figure(mark, low)} ${unit} or more`
  return `${figure(mark, high ?? 0)} ${unit} or less`
}

/** The four strings as one compact row, for phones. */
export function MarksRow() {
  const { trying } = useRoom()
  const { active, standing } = usePredicted()
  return (
    <div className="grid grid-cols-4 gap-2.5" aria-label="The four marks, in brief">
      {ORDER.map((mark) => {
        const now = active?.marks[mark]
        return (
          <div key={mark} className="h-[3.6rem]">
            <p className="font-display text-fine font-semibold">{NAMES[mark]}</p>
            {now ? (
              <>
                <BeadString
                  mark={mark}
                  width={84}
                  compact
                  measured={now.measured}
                  predicted={now.predicted}
                  former={trying ? formerOf(now, standing?.marks[mark]) : null}
                  wanted={now.wanted}
                />
                <p className="text-fine text-ink-2">
                  {now.value === null ? '–' : `${figure(mark, now.value)} ${now.unit}`}
                </p>
              </>
            ) : null}
          </div>
        )
      })}
    </div>
  )
}
