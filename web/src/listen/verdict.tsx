import type { MarkKey, ReadingSummary } from '../api/client'
import { NAMES } from '../marks/scales'
import { Notice } from '../ui/notice'

export type Tone = 'good' | 'care' | 'stop'
export const toneOf = (reading: ReadingSummary): Tone =>
  !reading.verdict.usable ? 'stop' : reading.verdict.reasons.length ? 'care' : 'good'
const TITLES = { stop: 'Not usable', care: 'Usable, with care', good: 'A good reading' }
const BIG = { stop: 'Not usable', care: 'Usable', good: 'Good' }
const SIGNS = { stop: '✕', care: '!', good: '✓' }
const COLOURS = { stop: 'text-bounce', care: 'text-change', good: 'text-felt' }

/** What happened to the recording on its way here, apart from what its sound tells. */
function wayNotes(reading: ReadingSummary): string[] {
  const { settings } = reading
  const notRaw = settings.not_raw ?? []
  return [
    notRaw.length ? `The browser applied ${notRaw.join(' and ')}: treat the figures with care.` : '',
    settings.unplugged ? 'The microphone was unplugged midway; what it gave until then was kept and read.' : '',
    settings.was_hidden
      ? 'The tab was hidden while recording; some browsers drop sound then. Compare with another reading.'
      : '',
  ].filter(Boolean)
}

/** Marks that this reading could have settled and does not, and why. */
const Unsettled = ({ reading }: { reading: ReadingSummary }) =>
  reading.empty.map(({ mark, why }) => (
    <p key={mark} className="text-ink-2">
      <strong className="font-semibold text-ink">{NAMES[mark as MarkKey] ?? mark}</strong> stays as it was. {why}
    </p>
  ))

const WayNotes = ({ reading }: { reading: ReadingSummary }) =>
  wayNotes(reading).map((text) => (
    <p key={text} className="text-ink-2">
      <span aria-hidden className="font-bold text-change">
        !{' '}
      </span>
      {text}
    </p>
  ))

/** The verdict in the column beside the drawing. */
export function Verdict({ reading }: { reading: ReadingSummary }) {
  const tone = toneOf(reading)
  return (
    <Notice tone={tone} title={`${TITLES[tone]}${reading.simulated ? ' (simulated)' : ''}`}>
      {reading.verdict.reasons.map((r) => (
        <p key={r.code} className="text-ink-2">
          {r.text} {r.cure}
        </p>
      ))}
      <Unsettled reading={reading} />
      <WayNotes reading={reading} />
    </Notice>
  )
}

/** The verdict as big as the room is long. */
export function BigVerdict({ reading }: { reading: ReadingSummary }) {
  const tone = toneOf(reading)
  return (
    <section aria-live="polite" data-testid="big-verdict">
      <p className={`font-display leading-none font-bold ${COLOURS[tone]} text-[clamp(2.8rem,7vw,4.6rem)]`}>
        <span aria-hidden>{SIGNS[tone]} </span>
        {BIG[tone]}
      </p>
      <p className="mt-2 font-display text-title font-semibold">
        {reading.verdict.usable ? reading.headline.said : 'Its figures are not counted'}
        {reading.simulated ? <span className="font-text text-note font-normal text-ink-2"> · simulated</span> : null}
      </p>
      {reading.verdict.reasons.length ? (
        <ul className="mt-2 space-y-1.5">
          {reading.verdict.reasons.map((r) => (
            <li key={r.code} className="border-l-4 border-change pl-3">
              <span className="block text-head leading-snug">{r.text}</span>
              <span className="block text-head leading-snug font-semibold">{r.cure}</span>
            </li>
          ))}
        </ul>
      ) : (
        <p className="mt-1 text-ink-2">Nothing in it stood in the way. It is filed in the ledger.</p>
      )}
      <div className="mt-2 space-y-1">
        <Unsettled reading={reading} />
        <WayNotes reading={reading} />
      </div>
    </section>
  )
}
