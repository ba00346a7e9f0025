import { useState } from 'react'
import { Segmented } from '../ui/segmented'
import { bestT, flagWords, type ResponseResult } from './reading-data'

const WIDTHS = [
  { key: 'octaves', name: 'Octaves' },
  { key: 'thirds', name: 'Thirds' },
] as const

const seconds = (value: number | null) => (value === null ? '–' : value.toFixed(2))

/** Every figure by octave, and why one is missing: ISO 3382 in a table, for those who want it whole. */
export function BandTable({ result }: { result: ResponseResult }) {
  const [width, setWidth] = useState<'octaves' | 'thirds'>('octaves')
  const bands = width === 'thirds' && result.thirds ? result.thirds : result.bands
  const withheld = bands.filter((b) => b.flags.length > 0)
  const longest = [...result.bands].sort((a, b) => (bestT(b) ?? 0) - (bestT(a) ?? 0))[0]
  return (
    <section data-testid="band-table">
      <div className="flex flex-wrap items-baseline justify-between gap-2">
        <h2 className="text-head">What are the figures, band by band?</h2>
        {result.thirds ? (
          <Segmented small label="Width of the bands" value={width} options={WIDTHS} onChange={setWidth} />
        ) : null}
      </div>
      <p className="text-note text-ink-2">
        {longest && bestT(longest) !== null
          ? `The ${longest.centre_hz} Hz octave hangs on longest: that is the colour the room leaves on a recording.`
          : 'No decay could be read.'}
      </p>
      <table className="mt-1.5 w-full text-right text-small">
        <thead className="text-ink-2">
          <tr>
            <th className="text-left font-normal">Hz</th>
            <th className="font-normal">EDT, s</th>
            <th className="font-normal">T20, s</th>
            <th className="font-normal">T30, s</th>
            <th className="font-normal">C50, dB</th>
            <th className="font-normal">C80, dB</th>
            <th className="font-normal">D50, %</th>
            <th className="font-normal">Ts, ms</th>
            <th className="font-normal">above noise, dB</th>
          </tr>
        </thead>
        <tbody>
          {bands.map((b) => (
            <tr key={b.centre_hz} className="border-t border-line">
              <th scope="row" className="text-left font-semibold">
                {b.centre_hz}
              </th>
              <td>{seconds(b.edt_s)}</td>
              <td>{seconds(b.t20_s)}</td>
              <td>{seconds(b.t30_s)}</td>
              <td>{b.c50_db === null ? '–' : b.c50_db.toFixed(1).replace('-', '−')}</td>
              <td>{b.c80_db === null ? '–' : b.c80_db.toFixed(1).replace('-', '−')}</td>
              <td>{b.d50 === null ? '–' : (b.d50 * 100).toFixed(0)}</td>
              <td>{b.ts_ms === null ? '–' : b.ts_ms.toFixed(0)}</td>
              <td>{b.inr_db === null ? '–' : b.inr_db.toFixed(0)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {withheld.length ? (
        <p className="mt-1.5 text-fine text-ink-2">
          Withheld or unsure: {withheld.map((b) => `${b.centre_hz} Hz: ${flagWords(b.flags)}`).join('; ')}.
        </p>
      ) : null}
    </section>
  )
}
