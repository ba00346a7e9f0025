import { useState } from 'react'
import type { Forecast } from '../api/client'
import { Segmented } from '../ui/segmented'
import {
  bestT,
  flagWords,
  type GlideResult,
  type ResponseResult,
  type TakeResult,
  type ToneResult,
} from './reading-data'
import { type Series, XYPlot, type XY } from './xy-plot'

const OCTAVES = [63, 125, 250, 500, 1000, 2000, 4000, 8000]
const hz = (f: number) => (f >= 1000 ? `${f / 1000}k` : String(f))
const frequency = (domain: [number, number], ticks: number[]) => ({
  name: 'pitch',
  unit: 'Hz',
  domain,
  ticks,
  log: true,
  text: hz,
})
const niceTop = (value: number, step: number) => Math.ceil(value / step) * step
const range = (from: number, to: number, step: number) =>
  Array.from(
    { length: Math.floor((to - from) / step + 1e-9) + 1 },
    (_, i) => Math.round((from + i * step) * 1000) / 1000,
  )

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
  const top = niceTop(Math.max(0.6, ...series.flatMap((s) => s.points.map((p) => p[1] ?? 0))) + 0.05, 0.2)
  const middle = result ? result.judged : forecast?.decay_middle
  const given = result ? 'The room hangs on for' : 'Predicted: the room hangs on for'
  return (
    <XYPlot
      question="How long does the room hang on?"
      answer={
        middle
          ? `${given} ${middle.value_s.toFixed(2)} s in the middle${JUDGED[middle.judged]}`
          : 'No decay could be read; see the verdict.'
      }
      x={frequency([52, 9600], OCTAVES)}
      y={{
        name: 'time to fade',
        unit: 's',
        domain: [0, top],
        ticks: range(0, top, top > 1.4 ? 0.4 : 0.2),
        text: (v) => v.toFixed(1),
      }}
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
      x={{ name: 'after the direct sound', unit: 'ms', domain: [0, 40], ticks: range(0, 40, 5) }}
      y={{
        name: 'level',
        unit: 'dB',
        domain: [-45, 2],
        ticks: [-40, -30, -20, -10, 0],
        text: (v) => String(v).replace('-', '−'),
      }}
      series={series}
      fileName="early-returns"
    />
  )
}

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
  const top = niceTop(Math.max(0.8, ...series.flatMap((s) => s.points.map((p) => p[1] ?? 0))) + 0.05, 0.2)
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
      x={frequency([28, 310], [30, 50, 80, 120, 180, 250, 300])}
      y={{
        name: 'ring time',
        unit: 's',
        domain: [0, top],
        ticks: range(0, top, top > 1.4 ? 0.4 : 0.2),
        text: (v) => v.toFixed(1),
      }}
      series={series}
      fileName="ringing-notes"
    />
  )
}

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
      x={frequency([20, 300], [20, 30, 50, 80, 120, 200, 300])}
      y={{
        name: 'level',
        unit: 'dB',
        domain: [-24, 16],
        ticks: [-20, -10, 0, 10],
        text: (v) => String(v).replace('-', '−'),
      }}
      series={series}
      marks={from > 30 ? [{ x: from, text: 'your lowest notes', colour: 'var(--ink-2)' }] : []}
      fileName="low-end"
    />
  )
}

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
      x={frequency([low * 0.97, high * 1.03], ticks)}
      y={{
        name: 'over the notes around',
        unit: 'dB',
        domain: [-12, 12],
        ticks: [-10, -5, 0, 5, 10],
        text: (v) => String(v).replace('-', '−'),
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

/** The noise under the performance, by third octave. */
export function NoisePlot({ tone, voice, calibrated }: { tone: ToneResult; voice: XY[] | null; calibrated: boolean }) {
  const unit = calibrated ? 'dB' : 'dBFS'
  const points: XY[] = tone.thirds.map((t) => [t.centre_hz, t.level_db])
  const levels = points.map((p) => p[1] ?? 0)
  const top = niceTop(Math.max(...levels, ...(voice ?? []).map((p) => p[1] ?? -200)) + 4, 10)
  const bottom = Math.floor((Math.min(...levels) - 4) / 10) * 10
  const strongest = [...tone.tones].sort((a, b) => b.level_db - a.level_db)[0]
  const series: Series[] = [{ name: 'noise when nobody plays', unit, points, colour: 'var(--hush)', kind: 'line' }]
  if (voice)
    series.push({ name: 'the performance', unit, points: voice, colour: 'var(--ink)', kind: 'line', dash: '7 4' })
  return (
    <XYPlot
      question="What is there when nobody plays?"
      answer={`${(tone.laeq_db ?? 0).toFixed(0).replace('-', '−')} ${calibrated ? 'dB(A)' : 'dBFS, A-weighted'}${tone.nr !== null && tone.nr !== undefined ? `, about NR ${tone.nr}` : ''}. ${strongest ? `A ${strongest.kind === 'hum' ? 'hum' : 'tone'} at ${strongest.f_hz.toFixed(0)} Hz stands out by ${strongest.prominence_db.toFixed(0)} dB: it will be heard in quiet phrases.` : 'No hum or tone stands out.'}`}
      x={frequency([24, 10600], [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000])}
      y={{
        name: 'level',
        unit,
        domain: [bottom, top],
        ticks: range(bottom, top, top - bottom > 60 ? 20 : 10),
        text: (v) => String(v).replace('-', '−'),
      }}
      series={series}
      marks={tone.tones
        .slice(0, 2)
        .map((t) => ({ x: t.f_hz, text: `${t.f_hz.toFixed(0)} Hz`, colour: 'var(--change)' }))}
      fileName="noise-spectrum"
    />
  )
}

/** How loud the take runs, and where its peaks should lie. */
export function LevelPlot({ take }: { take: TakeResult }) {
  const advice = take.gain_advice_db ?? 0
  const blocks = take.blocks_db ?? []
  const [peak, average] = [take.true_peak_dbtp ?? 0, take.average_dbfs ?? 0]
  return (
    <XYPlot
      question="Is the level right?"
      answer={
        advice === 0
          ? `Yes: loudest peak ${peak.toFixed(0).replace('-', '−')} dBFS, average ${average.toFixed(0).replace('-', '−')} dBFS.`
          : `${advice > 0 ? 'Turn the gain up' : 'Turn the gain down'} by about ${Math.abs(advice)} dB: the loudest peak is ${peak.toFixed(1).replace('-', '−')} dBFS, wanted −12 to −6.`
      }
      x={{
        name: 'time',
        unit: 's',
        domain: [0, Math.max(blocks.length * 0.1, 1)],
        ticks: range(0, blocks.length * 0.1, Math.max(Math.ceil(blocks.length / 100), 1)),
        text: (v) => v.toFixed(0),
      }}
      y={{
        name: 'level',
        unit: 'dBFS',
        domain: [-72, 0],
        ticks: [-60, -40, -20, 0],
        text: (v) => String(v).replace('-', '−'),
      }}
      series={[
        {
          name: 'level, tenth of a second',
          unit: 'dBFS',
          points: blocks.map((v, i) => [Math.round(i + 0.5) / 10, Math.max(v, -72)]),
          colour: 'var(--touch)',
          kind: 'line',
          width: 1.7,
        },
      ]}
      wanted={{ low: -21, high: -15, name: 'where the average belongs' }}
      marks={take.findings
        .filter((f) => f.kind === 'pop')
        .map((f) => ({ x: Math.round(f.start_s * 100) / 100, text: 'pop', colour: 'var(--bounce)' }))}
      fileName="take-level"
    />
  )
}

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
      answer={`${known.length ? `${known.join(' · ')}.` : 'No figure is given.'}${band.flags.length ? ` Withheld: ${flagWords(band.flags)}.` : ''}`}
      x={{
        name: 'time',
        unit: 's',
        domain: [0, end],
        ticks: range(0, end, end > 1.2 ? 0.4 : 0.2),
        text: (v) => v.toFixed(1),
      }}
      y={{
        name: 'level',
        unit: 'dB',
        domain: [-60, 0],
        ticks: [-60, -40, -20, 0],
        text: (v) => String(v).replace('-', '−'),
      }}
      series={series}
      fileName={`decay-${octave}`}
    />
  )
}

/** A response measured elsewhere, as it was brought. */
export function BroughtCurve({ name, points }: { name: string; points: XY[] }) {
  const levels = points.map((p) => p[1] ?? 0)
  const [low, high] = [Math.floor(Math.min(...levels) / 10) * 10, Math.ceil((Math.max(...levels) + 1) / 10) * 10]
  const [from, to] = [points[0]?.[0] ?? 20, points.at(-1)?.[0] ?? 20000]
  return (
    <XYPlot
      question="What does the curve say?"
      answer={`${name}: ${points.length} points from ${from.toFixed(0)} to ${to.toFixed(0)} Hz. Lay it beside a sweep’s low end in “Table and compare”.`}
      x={frequency(
        [from, to],
        [20, 31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000].filter((f) => f >= from && f <= to),
      )}
      y={{
        name: 'level',
        unit: 'dB',
        domain: [low, high],
        ticks: range(low, high, high - low > 50 ? 20 : 10),
        text: (v) => String(v).replace('-', '−'),
      }}
      series={[{ name, unit: 'dB', points, colour: 'var(--ink)', kind: 'line' }]}
      fileName="curve"
    />
  )
}
