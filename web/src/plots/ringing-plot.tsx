import type { Forecast } from '../api/client'
import { pitchAxis, secondsAxis } from './axis'
import type { ResponseResult } from './reading-data'
import { type Series, XYPlot } from './xy-plot'

/** Ringing notes beside the modes that the drawing predicts. */
export function RingingPlot({
  result,
  forecast,
  from,
}: {
  result: ResponseResult
  forecast: Forecast | null
  from: number
}) {
  const notes = result.ringing
  const longest = [...notes].filter((n) => n.f_hz > from && n.level_db > -10).sort((a, b) => b.t60_s - a.t60_s)[0]
  const series: Series[] = []
  if (forecast)
    series.push({
      name: 'predicted modes',
      unit: 's',
      points: forecast.modes.filter((m) => m.is_heard).map((m) => [m.f_hz, m.t60_s]),
      colour: 'var(--boom)',
      kind: 'stems',
      width: 2,
    })
  series.push({
    name: 'ringing notes found',
    unit: 's',
    points: notes.map((n) => [n.f_hz, n.t60_s]),
    colour: 'var(--ink)',
    kind: 'dots',
  })
  const slowest = Math.max(0.8, ...series.flatMap((s) => s.points.map((p) => p[1] ?? 0)))
  const matched = notes.filter((n) => n.mode).length
  return (
    <XYPlot
      question="Which notes ring on?"
      answer={
        longest
          ? `${longest.note} hangs for ${longest.t60_s.toFixed(2)} s. ${matched} of ${notes.length} notes fit a mode of the drawn room.`
          : notes.length
            ? `${matched} of ${notes.length} notes fit a mode of the drawn room.`
            : 'No note rings on below 300 Hz.'
      }
      x={pitchAxis([28, 310], [30, 50, 80, 120, 180, 250, 300])}
      y={secondsAxis('ring time', slowest)}
      series={series}
      fileName="ringing-notes"
    />
  )
}
