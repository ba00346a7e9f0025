import { partOf, PlayPart } from '../ui/play-part'
import type { TapeCheck, ToneResult } from './reading-data'

const signed = (value: number, digits = 0) => value.toFixed(digits).replace('-', '−')
const NAMES: Record<string, string> = {
  hum: 'Mains hum',
  fan: 'Something turning',
  whine: 'A whine',
  rumble: 'Rumble',
  hiss: 'Hiss',
}

/** What a silence is made of, loudest first, each with what to do about it. */
export function NoiseList({ tone }: { tone: ToneResult }) {
  const noises = tone.noises ?? []
  const unit = tone.calibrated ? 'dB' : 'dBFS'
  return (
    <section data-testid="noise-list">
      <h2 className="text-head">What is it that is heard?</h2>
      {noises.length === 0 ? (
        <p className="text-ink-2">An even rush: no hum, fan, whine, rumble or hiss stands out of it.</p>
      ) : null}
      <ul>
        {noises.map((noise) => (
          <li
            key={`${noise.kind}-${noise.f_hz}`}
            className="grid grid-cols-[11rem_1fr] gap-x-3 border-b border-line py-1 last:border-0 max-sm:grid-cols-1"
          >
            <span>
              <strong>{NAMES[noise.kind] ?? noise.kind}</strong>
              <span className="block text-small text-ink-2">
                {noise.harmonics.length
                  ? `${noise.f_hz.toFixed(0)} Hz${noise.harmonics.length > 1 || noise.harmonics[0] !== 1 ? `, its ${noise.harmonics.map(ordinal).join(', ')}` : ''}`
                  : noise.kind === 'rumble'
                    ? 'below 80 Hz'
                    : 'above 4 kHz'}{' '}
                · {signed(noise.level_db)} {unit}
              </span>
            </span>
            <span className="text-note">{noise.cure}</span>
          </li>
        ))}
      </ul>
    </section>
  )
}

const ordinal = (n: number) => (n === 1 ? 'first' : n === 2 ? 'second' : n === 3 ? 'third' : `${n}th`)
const EVENTS: Record<string, string> = { knock: 'A knock', passing: 'Something passed', rumble: 'A low rumble' }

/** What passed during a silence, when, how far it stood out, to be heard. */
export function EventList({ tone, readingId }: { tone: ToneResult; readingId: string }) {
  return (
    <section data-testid="event-list">
      <h2 className="text-head">What passed meanwhile?</h2>
      {tone.events.length === 0 ? <p className="text-ink-2">Nothing: the level stayed where it was.</p> : null}
      <ul>
        {tone.events.map((event) => (
          <li key={event.start_s} className="flex items-center gap-3 border-b border-line py-1 last:border-0">
            <strong className="w-40">{EVENTS[event.kind ?? 'passing'] ?? event.kind}</strong>
            <span className="flex-1 text-ink-2">
              {event.start_s.toFixed(1)} to {event.end_s.toFixed(1)} s, {event.rise_db.toFixed(0)} dB over the usual
            </span>
            <PlayPart
              address={partOf(readingId, event.start_s - 0.4, event.end_s + 0.6)}
              label={`what passed at ${event.start_s.toFixed(1)} s`}
              volume={0.7}
            />
          </li>
        ))}
      </ul>
    </section>
  )
}

/** Returns that were heard beside the lengths that were taped. */
export function TapeView({ tape }: { tape: TapeCheck | null }) {
  if (!tape) return <p className="text-ink-2">Too few returns stand apart here to check the tape against.</p>
  return (
    <section data-testid="tape-check">
      <h2 className="text-head">Does the tape agree with what was heard?</h2>
      <p className={`text-note ${tape.agrees === false ? 'font-semibold' : 'text-ink-2'}`}>{tape.sentence}</p>
      <table className="mt-1 w-full max-w-xl text-small">
        <thead className="text-left text-ink-2">
          <tr>
            <th className="font-normal">First return from</th>
            <th className="text-right font-normal">drawn, ms</th>
            <th className="text-right font-normal">heard, ms</th>
            <th className="text-right font-normal">way differs by</th>
          </tr>
        </thead>
        <tbody>
          {tape.returns.map((r) => (
            <tr key={r.where} className="border-t border-line">
              <th scope="row" className="text-left font-semibold">
                {r.where}
              </th>
              <td className="text-right">{r.drawn_ms.toFixed(1)}</td>
              <td className="text-right">{r.heard_ms === null ? 'not apart' : r.heard_ms.toFixed(1)}</td>
              <td className="text-right">{r.off_m === null ? '–' : `${signed(r.off_m * 100)} cm`}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1 text-fine text-ink-2">
        Counted from the direct sound. How long that took cannot be told: nobody knows when the recorder started.
      </p>
    </section>
  )
}
