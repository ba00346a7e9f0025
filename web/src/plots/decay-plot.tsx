import type { Forecast } from '../api/client'
import { OCTAVES_HZ, pitchAxis, secondsAxis } from './axis'
import { bestT, type ResponseResult } from './reading-data'
import { type Series, type XY, XYPlot } from './xy-plot'

const JUDGED = {
  longer: ', longer than wanted: the room will be heard behind every phrase.',
  shorter: ', shorter than wanted: dry and close.',
  as_wanted: ', about as wanted.',
}

/** How long each pitch band hangs on: measured beside predicted, before and after. */
export function DecayPlot({
  forecast,
  former,
  result,
  simulated,
  wanted,
  formulas = false,
}: {
  forecast: Forecast | null
  former?: Forecast | null
  result?: ResponseResult | null
  simulated?: boolean
  wanted: { low: number; high: number } | null
  /** Shows the three statistical formulas apart, and ring times of single notes where statistics do not hold. */
  formulas?: boolean
}) {
  const decayOf = (f: Forecast): XY[] => f.decay.map((d) => [d.centre_hz, d.middle_s])
  const series: Series[] = []
  if (former)
    series.push({
      name: 'predicted before',
      unit: 's',
      points: decayOf(former),
      colour: 'var(--line-strong)',
      kind: 'line',
      dash: '2 4',
    })
  if (forecast)
    series.push({
      name: former ? 'predicted after' : 'predicted',
      unit: 's',
      points: decayOf(forecast),
      colour: former ? 'var(--change)' : 'var(--bounce)',
      kind: 'line',
      dash: '7 4',
    })
  if (forecast && formulas)
    series.push(
      ...(
        [
          ['Sabine', 'sabine_s', '1 3'],
          ['Eyring', 'eyring_s', '5 3'],
          ['Arau-Puchades', 'arau_s', '9 3 2 3'],
        ] as const
      ).map(([name, key, dash]): Series => ({
        name,
        unit: 's',
        points: forecast.decay.filter((d) => d.trusted).map((d) => [d.centre_hz, d[key]]),
        colour: 'var(--line-strong)',
        kind: 'line',
        dash,
        width: 1.4,
      })),
      {
        name: 'single notes ring',
        unit: 's',
        points: forecast.modes.filter((m) => m.is_heard && m.f_hz >= 52).map((m) => [m.f_hz, m.t60_s]),
        colour: 'var(--boom)',
        kind: 'dots',
      },
    )
  if (result)
    series.push({
      name: `measured${simulated ? ' (simulated)' : ''}`,
      unit: 's',
      points: result.bands.map((b) => [b.centre_hz, bestT(b)]),
      colour: 'var(--ink)',
      kind: 'dots',
    })
  const longest = Math.max(0.6, ...series.flatMap((s) => s.points.map((p) => p[1] ?? 0)))
  const middle = result ? result.judged : forecast?.decay_middle
  const given = result ? 'The room hangs on for' : 'Predicted: the room hangs on for'
  return (
    <XYPlot
      question="How long does the room hang on?"
      answer={
        middle
          ? `${given} ${middle.value_s.toFixed(2)} s in the middle${JUDGED[middle.judged]}${middle.bent ? ' It fades fast at first and hangs on after that.' : ''}`
          : 'No decay could be read; see the verdict.'
      }
      x={pitchAxis([52, 9600], OCTAVES_HZ)}
      y={secondsAxis('time to fade', longest)}
      series={series}
      wanted={wanted ? { ...wanted, name: 'wanted' } : null}
      trustedAbove={forecast?.schroeder_hz ?? null}
      marks={
        formulas && forecast
          ? [
              {
                x: forecast.schroeder_hz,
                text: `below ${forecast.schroeder_hz.toFixed(0)} Hz (Schroeder) notes ring one by one`,
                colour: 'var(--ink-2)',
              },
            ]
          : []
      }
      fileName="decay-by-octave"
    />
  )
}
