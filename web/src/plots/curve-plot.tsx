import { hz, ticksOf, trueMinus } from './axis'
import { bestT, flagWords, type ResponseResult } from './reading-data'
import { type Series, XYPlot } from './xy-plot'

/** The decay curve of one octave, as read. */
export function CurvePlot({ result, octave }: { result: ResponseResult; octave: number }) {
  const band = result.bands.find((b) => b.centre_hz === octave) ?? result.bands[0]
  if (!band) return null
  const t = bestT(band)
  const [time, level] = [band.curve_s ?? [], band.curve_db ?? []]
  const end = Math.max(0.3, ...time)
  const known = [
    band.edt_s !== null ? `EDT ${band.edt_s.toFixed(2)} s` : '',
    band.t20_s !== null ? `T20 ${band.t20_s.toFixed(2)} s` : '',
    band.t30_s !== null ? `T30 ${band.t30_s.toFixed(2)} s` : '',
    band.c50_db !== null ? `C50 ${band.c50_db.toFixed(1)} dB` : '',
    band.d50 !== null ? `D50 ${(band.d50 * 100).toFixed(0)} %` : '',
  ].filter(Boolean)
  const series: Series[] = [
    {
      name: `${hz(octave)} Hz octave`,
      unit: 'dB',
      points: time.map((s, i) => [s, Math.max(level[i]!, -60)]),
      colour: 'var(--ink)',
      kind: 'line',
    },
  ]
  if (t)
    series.push({
      name: `fit, ${t.toFixed(2)} s`,
      unit: 'dB',
      points: [
        [0, 0],
        [Math.min(t, end), (-60 * Math.min(t, end)) / t],
      ],
      colour: 'var(--bounce)',
      kind: 'line',
      dash: '7 4',
    })
  return (
    <XYPlot
      question={`How does the ${hz(octave)} Hz octave fade?`}
      answer={`${known.length ? `${known.join(' · ')}.` : 'No figure is given.'}${band.flags.length ? ` Withheld or unsure: ${flagWords(band.flags)}.` : ''}`}
      x={{
        name: 'time',
        unit: 's',
        domain: [0, end],
        ticks: ticksOf(0, end),
        text: (v) => v.toFixed(1),
      }}
      y={{
        name: 'level',
        unit: 'dB',
        domain: [-60, 0],
        ticks: [-60, -40, -20, 0],
        text: trueMinus,
      }}
      series={series}
      fileName={`decay-${octave}`}
    />
  )
}
