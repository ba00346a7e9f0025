import type { Forecast } from '../api/client'
import { ticksOf, trueMinus } from './axis'
import type { ResponseResult } from './reading-data'
import { type Series, type XY, XYPlot } from './xy-plot'

/** What comes back right after the direct sound, and from where. */
export function EarlyPlot({ result, forecast }: { result: ResponseResult; forecast: Forecast | null }) {
  const { early } = result
  const loudest = [...early].sort((a, b) => b.level_db - a.level_db)[0]
  const { flutter } = result
  const fluttering = flutter
    ? ` It flutters ${flutter.rate_hz.toFixed(0)} times a second${flutter.between ? `, between ${flutter.between.join(' and ')}` : ''}.`
    : ''
  const { time_ms, level_db } = result.energy_time ?? { time_ms: [], level_db: [] }
  const curve: XY[] = time_ms.flatMap((t, i) => (t >= 0 && t <= 40 ? [[t, Math.max(level_db[i]!, -45)] as const] : []))
  const series: Series[] = [
    { name: 'energy at the mic', unit: 'dB', points: curve, colour: 'var(--line-strong)', kind: 'line', width: 1.3 },
    {
      name: 'returns found',
      unit: 'dB',
      points: early.map((e) => [e.delay_ms, e.level_db]),
      colour: 'var(--bounce)',
      kind: 'dots',
    },
  ]
  if (forecast)
    series.push({
      name: 'predicted paths',
      unit: 'dB',
      points: forecast.paths.filter((p) => p.order === 1 && p.level_db > -44).map((p) => [p.delay_ms, p.level_db]),
      colour: 'var(--change)',
      kind: 'stems',
      width: 2,
    })
  return (
    <XYPlot
      question="What comes back first?"
      answer={`${loudest ? `${loudest.where ? `From ${loudest.where}` : 'A return'} after ${loudest.delay_ms.toFixed(1)} ms, ${Math.abs(loudest.level_db).toFixed(0)} dB under you${loudest.level_db > -20 ? ': loud enough to colour the voice.' : '.'}` : 'Nothing separate stands out of the decay.'}${fluttering}`}
      x={{ name: 'after the direct sound', unit: 'ms', domain: [0, 40], ticks: ticksOf(0, 40, 8) }}
      y={{
        name: 'level',
        unit: 'dB',
        domain: [-45, 2],
        ticks: [-40, -30, -20, -10, 0],
        text: trueMinus,
      }}
      series={series}
      fileName="early-returns"
    />
  )
}
