import { pitchAxis, rounded, trueMinus } from './axis'
import type { ToneResult } from './reading-data'
import { type Series, type XY, XYPlot } from './xy-plot'

/** The noise under the performance, by third octave. */
export function NoisePlot({ tone, voice, calibrated }: { tone: ToneResult; voice: XY[] | null; calibrated: boolean }) {
  const unit = calibrated ? 'dB' : 'dBFS'
  const points: XY[] = tone.thirds.map((t) => [t.centre_hz, t.level_db])
  const levels = points.map((p) => p[1] ?? 0)
  const top = Math.max(...levels, ...(voice ?? []).map((p) => p[1] ?? -200)) + 4
  const bottom = Math.min(...levels) - 4
  const strongest = [...tone.tones].sort((a, b) => b.level_db - a.level_db)[0]
  const series: Series[] = [{ name: 'noise when nobody plays', unit, points, colour: 'var(--hush)', kind: 'line' }]
  if (voice)
    series.push({ name: 'the performance', unit, points: voice, colour: 'var(--ink)', kind: 'line', dash: '7 4' })
  return (
    <XYPlot
      question="What is there when nobody plays?"
      answer={`${(tone.laeq_db ?? 0).toFixed(0).replace('-', '−')} ${calibrated ? 'dB(A)' : 'dBFS, A-weighted'}${tone.nr !== null && tone.nr !== undefined ? `, about NR ${tone.nr}` : ''}. ${strongest ? `A ${strongest.kind === 'hum' ? 'hum' : 'tone'} at ${strongest.f_hz.toFixed(0)} Hz stands out by ${strongest.prominence_db.toFixed(0)} dB: it will be heard in quiet phrases.` : 'No hum or tone stands out.'}`}
      x={pitchAxis([24, 10600], [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000])}
      y={{
        name: 'level',
        unit,
        ...rounded(bottom, top),
        text: trueMinus,
      }}
      series={series}
      marks={tone.tones
        .slice(0, 2)
        .map((t) => ({ x: t.f_hz, text: `${t.f_hz.toFixed(0)} Hz`, colour: 'var(--change)' }))}
      fileName="noise-spectrum"
    />
  )
}
