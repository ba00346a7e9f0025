import { useState } from 'react'
import type { Forecast } from '../api/client'
import { Segmented } from '../ui/segmented'
import { pitchAxis, trueMinus } from './axis'
import type { ResponseResult } from './reading-data'
import { type Series, type XY, XYPlot } from './xy-plot'

const HEARD_AT = [
  { key: 'mic', name: 'Microphone' },
  { key: 'chair', name: 'Chair' },
] as const

/** The low end at the microphone, or from the monitors to the chair: predicted swing, measured beside it. */
export function LowEndPlot({
  forecast,
  former,
  result,
  simulated,
  from,
}: {
  forecast: Forecast
  former?: Forecast | null
  result?: ResponseResult | null
  simulated?: boolean
  from: number
}) {
  const [place, setPlace] = useState<'mic' | 'chair'>('mic')
  const centred = ({ f_hz: f, smooth_db: smooth }: { f_hz: number[]; smooth_db: (number | null)[] }): XY[] => {
    const inside = smooth.flatMap((v, i) => (v !== null && f[i]! >= 60 ? [v] : []))
    const mean = inside.reduce((a, b) => a + b, 0) / Math.max(inside.length, 1)
    return f.map((x, i) => [x, smooth[i] === null || smooth[i]! - mean < -24 ? null : smooth[i]! - mean])
  }
  const atChair = place === 'chair' && forecast.listening ? forecast.listening : null
  const series: Series[] = []
  if (former && !atChair)
    series.push({
      name: 'predicted before',
      unit: 'dB',
      points: centred(former.response),
      colour: 'var(--line-strong)',
      kind: 'line',
      dash: '2 4',
    })
  series.push({
    name: former ? 'predicted after' : 'predicted',
    unit: 'dB',
    points: centred(atChair ?? forecast.response),
    colour: former ? 'var(--change)' : 'var(--boom)',
    kind: 'line',
    dash: '7 4',
  })
  if (result?.low_end && !atChair)
    series.push({
      name: `measured${simulated ? ' (simulated)' : ''}`,
      unit: 'dB',
      points: centred(result.low_end),
      colour: 'var(--ink)',
      kind: 'line',
    })
  const { note_hz, swing_db } = forecast.marks.boom
  return (
    <XYPlot
      question={atChair ? 'Which notes swell in the chair?' : 'Which notes swell at the microphone?'}
      answer={
        atChair
          ? `From ${atChair.swing_range_hz.join(' to ')} Hz the monitors reach the chair with ${atChair.swing_db.toFixed(0)} dB between the strongest note and the weakest. Move the chair along the room and watch.`
          : `Low notes swing by ${swing_db.toFixed(0)} dB here; the one near ${note_hz.toFixed(0)} Hz hangs longest. Another spot has another pattern.`
      }
      tools={
        forecast.listening ? (
          <Segmented small label="Heard at" value={place} options={HEARD_AT} onChange={setPlace} />
        ) : undefined
      }
      x={pitchAxis([20, 300], [20, 30, 50, 80, 120, 200, 300])}
      y={{
        name: 'level',
        unit: 'dB',
        domain: [-24, 16],
        ticks: [-20, -10, 0, 10],
        text: trueMinus,
      }}
      series={series}
      marks={from > 30 ? [{ x: from, text: 'your lowest notes', colour: 'var(--ink-2)' }] : []}
      fileName="low-end"
    />
  )
}
