import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import type { Forecast, Reading } from '../api/client'
import { roomQueries } from '../api/queries'
import { CalibrateSheet } from '../listen/calibrate'
import { TAKES } from '../listen/kinds'
import { BandTable } from '../plots/band-table'
import { ModeList } from '../plots/mode-list'
import { EventList, NoiseList, TapeView } from '../plots/heard-lists'
import { PathList } from '../plots/path-list'
import { RidgePlot } from '../plots/ridge-plot'
import { softAt } from '../room/soft-at'
import {
  BroughtCurve,
  CurvePlot,
  DecayPlot,
  EarlyPlot,
  GlidePlot,
  LevelPlot,
  LowEndPlot,
  NoisePlot,
  RingingPlot,
} from '../plots/plots'
import { PlotHeight } from '../plots/xy-plot'
import {
  type GlideResult,
  isResponse,
  type ResponseResult,
  type TakeResult,
  type ToneResult,
} from '../plots/reading-data'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { partOf, PlayPart } from '../ui/play-part'
import { Segmented } from '../ui/segmented'
import type { StepKey } from './steps'

type ResponseView = 'decay' | 'early' | 'ringing' | 'low' | 'surface' | 'curve' | 'tape' | 'table'
const VIEWS: readonly { key: ResponseView; name: string }[] = [
  { key: 'decay', name: 'Decay' },
  { key: 'curve', name: 'Fade' },
  { key: 'early', name: 'Early' },
  { key: 'ringing', name: 'Ringing' },
  { key: 'surface', name: 'Ridges' },
  { key: 'low', name: 'Low end' },
  { key: 'tape', name: 'Tape' },
  { key: 'table', name: 'Figures' },
]
type Look = 'decay' | 'low' | 'notes' | 'paths'
const LOOKS: readonly { key: Look; name: string }[] = [
  { key: 'decay', name: 'Decay' },
  { key: 'low', name: 'Low end' },
  { key: 'notes', name: 'Notes' },
  { key: 'paths', name: 'Returns' },
]
const WANTED_KINDS: Partial<Record<StepKey, readonly string[]>> = { hush: ['tone'], take: TAKES }
const FIRST_LOOK: Partial<Record<StepKey, Look>> = { marks: 'low' }

/** The one plot that answers the step's question, and its neighbours one choice away. */
export function Bench({
  step,
  readingId,
  modeHz,
  onMode,
}: {
  step: StepKey
  readingId: string | null
  modeHz: number | null
  onMode: (hz: number) => void
}) {
  const { id, change } = useRoom()
  const [look, setLook] = useState<Look | null>(null)
  const { active: forecast, standing } = usePredicted()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const kinds = WANTED_KINDS[step]
  const fitting = readings.filter(
    (r) => r.counts && r.verdict.usable && (kinds ? kinds.includes(r.kind) : isResponse(r.kind)),
  )
  // Real readings come before simulated ones; what was chosen comes before both.
  const best = fitting.find((r) => !r.simulated) ?? fitting[0]
  const chosenId =
    (step === 'listen' || (step === 'take' && fitting.some((r) => r.id === readingId))) && readingId
      ? readingId
      : best?.id
  const { data: reading } = useQuery({ ...roomQueries.reading(chosenId ?? ''), enabled: Boolean(chosenId) })
  const lowest = forecast?.marks.boom.range_hz[0] ?? 40
  const wanted = decayWanted(forecast)
  const response =
    reading && isResponse(reading.kind) && holds(reading, 'bands')
      ? (reading.result as unknown as ResponseResult)
      : null

  if (step === 'listen' || step === 'ledger')
    return <ReadingBench reading={reading ?? null} lowest={lowest} wanted={wanted} />
  if (step === 'hush')
    return reading?.kind === 'tone' && holds(reading, 'thirds') ? (
      <ToneBench reading={reading} />
    ) : (
      <Empty
        title="What is there when nobody plays?"
        text="Record a silence in Listen: ten seconds with the gain set as for a take."
      />
    )
  if (step === 'take')
    return reading && TAKES.includes(reading.kind) && holds(reading, 'blocks_db') ? (
      <TakeBench reading={reading} />
    ) : (
      <Empty title="Is the level right?" text="Record or bring a test take: your quietest and your loudest phrase." />
    )
  if (!forecast) return <div className="h-52 animate-pulse rounded-lg bg-floor" aria-label="Working" />
  const shown = look ?? FIRST_LOOK[step] ?? 'decay'
  return (
    <div>
      <div className="mb-1.5">
        <Segmented small label="What to look at" value={shown} options={LOOKS} onChange={setLook} />
      </div>
      <PlotHeight value={166}>
        {shown === 'notes' ? <ModeList forecast={forecast} chosenHz={modeHz} onChoose={onMode} /> : null}
        {shown === 'paths' ? (
          <PathList
            forecast={forecast}
            onSoften={(path) => change('try something soft there', (now) => softAt(now, path))}
          />
        ) : null}
        {shown === 'low' ? (
          <LowEndPlot
            forecast={forecast}
            former={standing}
            result={response}
            simulated={reading?.simulated ?? false}
            from={lowest}
          />
        ) : null}
        {shown === 'decay' ? (
          <DecayPlot
            forecast={forecast}
            former={standing}
            result={response}
            simulated={reading?.simulated ?? false}
            wanted={wanted}
            formulas={step === 'tape'}
          />
        ) : null}
      </PlotHeight>
    </div>
  )
}

/** Whether a reading gave what a plot needs; one that was refused holds empty lists. */
function holds(reading: Reading, key: string): boolean {
  const found = reading.result[key]
  return Array.isArray(found) && found.length > 0
}

function decayWanted(forecast: Forecast | null): { low: number; high: number } | null {
  const [low, high] = forecast?.marks.bounce.decay_wanted_s ?? [null, null]
  return low !== null && high !== null ? { low, high } : null
}

function ReadingBench({
  reading,
  lowest,
  wanted,
}: {
  reading: Reading | null
  lowest: number
  wanted: { low: number; high: number } | null
}) {
  const [view, setView] = useState<ResponseView>('decay')
  const [octave, setOctave] = useState(1000)
  const { active: forecast } = usePredicted()
  useEffect(() => setView('decay'), [reading?.id])
  if (!reading)
    return (
      <Empty title="What does the room say?" text="Take a sweep, a silence or a test take; the figures come here." />
    )
  if (reading.kind === 'curve') return <CurveKept reading={reading} />
  if (reading.kind !== 'glide' && !['bands', 'thirds', 'blocks_db'].some((key) => holds(reading, key)))
    return <Unusable reading={reading} />
  if (reading.kind === 'glide')
    return reading.result['curve'] ? (
      <GlidePlot glide={reading.result as unknown as GlideResult} simulated={reading.simulated} />
    ) : (
      <Unusable reading={reading} />
    )
  if (reading.kind === 'tone') return <ToneBench reading={reading} />
  if (TAKES.includes(reading.kind)) return <TakeBench reading={reading} />
  const result = reading.result as unknown as ResponseResult
  const octaves = result.bands.filter((b) => b.curve_s.length > 0).map((b) => b.centre_hz)
  return (
    <div>
      <div className="mb-1.5 flex flex-wrap items-center gap-2">
        <Segmented small label="What to look at" value={view} options={VIEWS} onChange={setView} />
        {view === 'curve' ? (
          <Segmented
            small
            label="Octave"
            value={String(octave)}
            options={octaves.map((f) => ({ key: String(f), name: f >= 1000 ? `${f / 1000}k` : String(f) }))}
            onChange={(f) => setOctave(Number(f))}
          />
        ) : null}
      </div>
      <PlotHeight value={166}>
        {view === 'decay' ? (
          <DecayPlot forecast={forecast} result={result} simulated={reading.simulated} wanted={wanted} />
        ) : null}
        {view === 'table' ? <BandTable result={result} /> : null}
        {view === 'tape' ? <TapeView tape={result.tape ?? null} /> : null}
        {view === 'surface' && result.surface ? <RidgePlot surface={result.surface} notes={result.ringing} /> : null}
        {view === 'curve' ? <CurvePlot result={result} octave={octave} /> : null}
        {view === 'early' ? <EarlyPlot result={result} forecast={forecast} /> : null}
        {view === 'ringing' ? <RingingPlot result={result} forecast={forecast} from={lowest} /> : null}
        {view === 'low' && forecast ? (
          <LowEndPlot forecast={forecast} result={result} simulated={reading.simulated} from={lowest} />
        ) : null}
      </PlotHeight>
    </div>
  )
}

const TONE_VIEWS = [
  { key: 'spectrum', name: 'Spectrum' },
  { key: 'noises', name: 'What it is' },
  { key: 'events', name: 'What passed' },
] as const

/** Noise with the performance over it, when a take through the same chain exists; what it is made of; what passed, to be heard. */
function ToneBench({ reading }: { reading: Reading }) {
  const { id } = useRoom()
  const [view, setView] = useState<'spectrum' | 'noises' | 'events'>('spectrum')
  const [calibrating, setCalibrating] = useState(false)
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const take = readings.find(
    (r) =>
      r.kind === 'take' &&
      r.way !== 'import' && // nothing is known of a file's gain
      r.way === reading.way &&
      (['device', 'gain_db', 'gain'] as const).every((key) => r.settings[key] === reading.settings[key]),
  )
  const { data: sung } = useQuery({ ...roomQueries.reading(take?.id ?? ''), enabled: Boolean(take) })
  const tone = reading.result as unknown as ToneResult
  const calibration = Number(reading.settings['calibration_db'] ?? 0)
  const thirds = (sung?.result['thirds'] ?? []) as ToneResult['thirds']
  const voice = thirds.map((t) => [t.centre_hz, t.level_db === null ? null : t.level_db + calibration] as const)
  const off = reading.settings['calibration_plus_minus_db']
  return (
    <div>
      <div className="mb-1.5 flex flex-wrap items-center gap-2">
        <Segmented small label="What to look at" value={view} options={TONE_VIEWS} onChange={setView} />
        <PlayPart
          address={partOf(reading.id, 0, reading.seconds)}
          label="this silence, raised to be heard"
          name="Hear it, raised"
          volume={0.7}
        />
        {reading.simulated ? null : (
          <Button small look="quiet" onClick={() => setCalibrating(true)}>
            {tone.calibrated ? `Calibrated ±${typeof off === 'number' ? off.toFixed(1) : '?'} dB` : 'Calibrate'}
          </Button>
        )}
      </div>
      <PlotHeight value={166}>
        {view === 'spectrum' ? (
          <NoisePlot tone={tone} voice={voice.length ? voice : null} calibrated={tone.calibrated} />
        ) : null}
        {view === 'noises' ? <NoiseList tone={tone} /> : null}
        {view === 'events' ? <EventList tone={tone} readingId={reading.id} /> : null}
      </PlotHeight>
      {calibrating ? <CalibrateSheet reading={reading} onClose={() => setCalibrating(false)} /> : null}
    </div>
  )
}

/** Level over time with its pops, and the sound itself. */
function TakeBench({ reading }: { reading: Reading }) {
  return (
    <div className="relative">
      <LevelPlot take={reading.result as unknown as TakeResult} />
      <div className="absolute right-20 -top-1">
        <PlayPart address={`${partOf(reading.id, 0, Math.max(reading.seconds, 0.1))}&level=false`} label="this take" />
      </div>
    </div>
  )
}

/** A curve brought from elsewhere, drawn as it is. */
function CurveKept({ reading }: { reading: Reading }) {
  const curve = reading.result['curve'] as { f_hz: number[]; level_db: number[] }
  return <BroughtCurve name={reading.file_name} points={curve.f_hz.map((f, i) => [f, curve.level_db[i]!])} />
}

const Unusable = ({ reading }: { reading: Reading }) => (
  <Empty
    title="This reading cannot be used"
    text={reading.verdict.reasons.map((r) => `${r.text} ${r.cure}`).join(' ')}
  />
)

function Empty({ title, text }: { title: string; text: string }) {
  return (
    <div className="flex min-h-40 flex-col justify-center rounded-lg">
      <h2 className="text-[1.08rem]">{title}</h2>
      <p className="text-ink-2">{text}</p>
    </div>
  )
}
