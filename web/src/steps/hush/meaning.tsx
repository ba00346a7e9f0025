import type { Schemas } from '../../api/client'
import { pitchAxis, rounded, trueMinus } from '../../plots/axis'
import { type Series, XYPlot } from '../../plots/xy-plot'
import { useState } from 'react'
import { Segmented } from '../../ui/segmented'
import { Lacking } from '../../marks/marks-column'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { NumberField } from '../../ui/fields'

const AS = [
  { key: 'recorded', name: 'As recorded' },
  { key: 'squeezed', name: 'Squeezed by 10 dB' },
] as const

/** Noise under the performance by pitch, what is heard of it, and what mixing makes of it. */
export function MeaningBench({ hush }: { hush: Schemas['HushAnswer'] | undefined }) {
  const { document, change } = useRoom()
  const mark = usePredicted().active?.marks.hush
  const [as, setAs] = useState<(typeof AS)[number]['key']>('recorded')
  if (!hush) return <p className="py-6 text-ink-2">Working it out</p>
  if (!hush.known)
    return (
      <div className="py-6">
        <h3 className="text-head">What would be heard under you?</h3>
        <p className="text-ink-2">{mark?.sentence}</p>
        {mark ? <Lacking now={mark} /> : null}
      </div>
    )
  const found = as === 'recorded' ? hush.audible : hush.audible_squeezed
  const lift = as === 'recorded' ? 0 : 10
  const noise = found.centre_hz.map((f, i) => [f, found.noise_db[i]! + lift] as const)
  const voice = found.centre_hz.map((f, i) => [f, found.performance_db[i]!] as const)
  const heard = found.centre_hz.map(
    (f, i) =>
      [f, found.heard[i] === 'quiet' || found.heard[i] === 'always' ? found.noise_db[i]! + lift : null] as const,
  )
  const levels = [...noise, ...voice].map((p) => p[1])
  const series: Series[] = [
    { name: 'you', unit: 'dB', points: voice, colour: 'var(--ink)', kind: 'line', dash: '7 4' },
    { name: 'the noise', unit: 'dB', points: noise, colour: 'var(--hush)', kind: 'line' },
    { name: 'heard under your playing', unit: 'dB', points: heard, colour: 'var(--change)', kind: 'dots' },
  ]
  return (
    <div className="grid gap-4 pb-3 lg:grid-cols-[minmax(0,1fr)_19rem]" data-testid="meaning-bench">
      <div>
        <div className="mb-1">
          <Segmented small label="Heard" value={as} options={AS} onChange={setAs} />
        </div>
        <XYPlot
          question="What would be heard under you?"
          answer={found.words}
          x={pitchAxis([24, 10600], [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000])}
          y={{
            name: 'level at the microphone',
            unit: 'dB',
            ...rounded(Math.max(Math.min(...levels), -10), Math.max(...levels) + 3),
            text: trueMinus,
          }}
          series={series}
          fileName="noise-under-you"
        />
      </div>
      <div>
        <h3 className="text-plain">How far under you, in the mix</h3>
        <table className="mt-1 w-full text-note tabular-nums">
          <tbody>
            <Row name="as recorded" value={hush.under.now} />
            <Row name="under a quiet phrase" value={hush.under.quiet} />
            <Row name="after 10 dB of squeezing" value={hush.under.squeezed} />
            <Row name="and a treble lift of 6 dB" value={hush.under.lifted} />
            {hush.under.layers > 1 ? <Row name={`and ${hush.under.layers} layers`} value={hush.under.layered} /> : null}
          </tbody>
        </table>
        {document.brief.layers === 'layered' ? (
          <div className="mt-1.5 max-w-48">
            <NumberField
              label="Layers of you"
              unit=""
              value={document.brief.layer_count ?? 1}
              low={1}
              high={200}
              onChange={(layer_count) =>
                change('number of layers', (now) => ({
                  ...now,
                  brief: { ...now.brief, layer_count: Math.round(layer_count) },
                }))
              }
            />
          </div>
        ) : null}
        <h3 className="mt-3 text-plain">By effort and distance</h3>
        <div className="overflow-x-auto">
          <table className="w-full text-right text-small tabular-nums">
            <thead>
              <tr className="text-ink-2">
                <th className="text-left font-normal">dB under</th>
                {hush.distances_m.map((d) => (
                  <th key={d} className="font-normal">
                    {d < 1 ? `${Math.round(d * 100)} cm` : `${d} m`}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {hush.efforts.map((row) => (
                <tr key={row.source} className="border-t border-line">
                  <th className="pr-1 text-left font-semibold">{row.name.replace(' voice', '')}</th>
                  {row.under_db.map((value, i) => (
                    <td key={i}>{value.toFixed(0)}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </div>
    </div>
  )
}

function Row({ name, value }: { name: string; value: number }) {
  return (
    <tr className="border-b border-line last:border-0">
      <th className="py-0.5 text-left font-normal text-ink-2">{name}</th>
      <td className="py-0.5 text-right font-semibold">{value.toFixed(0).replace('-', '−')} dB</td>
    </tr>
  )
}
