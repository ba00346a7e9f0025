import { pitchAxis, trueMinus } from './axis'
import type { GlideResult } from './reading-data'
import { XYPlot } from './xy-plot'

/** How much louder the hum comes back on some notes than on those around them. */
export function GlidePlot({ glide, simulated }: { glide: GlideResult; simulated: boolean }) {
  const { curve, pitch_low_hz: low, pitch_high_hz: high } = glide
  if (!curve || !low || !high) return null
  const first = glide.swells[0]
  const said = glide.swells.slice(0, 3).map((s) => {
    const mode = s.mode ? `, the room’s own ${s.mode.f_hz.toFixed(0)} Hz` : ''
    return `${s.note} by ${s.rise_db.toFixed(0)} dB${mode}`
  })
  const ticks = [60, 80, 100, 150, 200, 300, 400, 500].filter((f) => f >= low && f <= high)
  return (
    <XYPlot
      question="On which notes does the room swell?"
      answer={
        first
          ? `${said.join('; ')}. There the microphone hears the room more than you; another spot for either changes it.`
          : 'None stands out by 3 dB between these notes: the room takes them evenly here.'
      }
      x={pitchAxis([low * 0.97, high * 1.03], ticks)}
      y={{
        name: 'over the notes around',
        unit: 'dB',
        domain: [-12, 12],
        ticks: [-10, -5, 0, 5, 10],
        text: trueMinus,
      }}
      series={[
        {
          name: `hum${simulated ? ' (simulated)' : ''}`,
          unit: 'dB',
          points: curve.f_hz.map((f, i) => [f, Math.max(Math.min(curve.rise_db[i]!, 12), -12)]),
          colour: 'var(--boom)',
          kind: 'line',
        },
      ]}
      wanted={{ low: -3, high: 3, name: 'even' }}
      marks={glide.swells.slice(0, 4).map((s) => ({ x: s.f_hz, text: s.note.split(' ')[0]!, colour: 'var(--boom)' }))}
      fileName="hum-glide"
    />
  )
}
