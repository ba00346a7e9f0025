import { useContext, useState } from 'react'
import { BandTable } from '../plots/band-table'
import { TapeView } from '../plots/heard-lists'
import { CurvePlot } from '../plots/curve-plot'
import { DecayPlot } from '../plots/decay-plot'
import { EarlyPlot } from '../plots/early-plot'
import { LowEndPlot } from '../plots/low-end-plot'
import { RingingPlot } from '../plots/ringing-plot'
import { HangingNotes } from '../plots/hanging-notes'
import { PlotHeight } from '../plots/xy-plot'
import { BenchHeight } from './height'
import { usePredicted } from '../state/forecast'
import { Segmented } from '../ui/segmented'
import type { ReadingOf } from './of-form'
import { useBefore } from './use-best'
import { decayWanted, lowestNote } from './predicted-stage'

const VIEWS = [
  { key: 'decay', name: 'Decay' },
  { key: 'curve', name: 'Fade' },
  { key: 'early', name: 'Early' },
  { key: 'ringing', name: 'Ringing' },
  { key: 'surface', name: 'Hanging' },
  { key: 'low', name: 'Lows' },
  { key: 'tape', name: 'Tape' },
  { key: 'table', name: 'Figures' },
] as const
type View = (typeof VIEWS)[number]['key']

/** A response by every look that it allows. */
export function ResponseBench({ reading }: { reading: ReadingOf<'response'> }) {
  const [view, setView] = useState<View>('decay')
  const height = useContext(BenchHeight)
  const [octave, setOctave] = useState(1000)
  const octaves = reading.result.bands.filter((b) => b.curve_s?.length).map((b) => b.centre_hz)
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
      <PlotHeight value={height}>
        <Shown view={view} octave={octave} reading={reading} />
      </PlotHeight>
    </div>
  )
}

function Shown({ view, octave, reading }: { view: View; octave: number; reading: ReadingOf<'response'> }) {
  const { active: forecast } = usePredicted()
  const { result, simulated } = reading
  const before = useBefore(reading, 'response')
  switch (view) {
    case 'decay':
      return <DecayPlot forecast={forecast} result={result} simulated={simulated} wanted={decayWanted(forecast)} />
    case 'table':
      return <BandTable result={result} />
    case 'tape':
      return <TapeView tape={result.tape ?? null} />
    case 'surface':
      return result.surface ? (
        <HangingNotes
          surface={result.surface}
          notes={result.ringing}
          wantedS={forecast?.marks.boom.wanted.high ?? null}
          before={before?.result.surface ?? null}
        />
      ) : null
    case 'curve':
      return <CurvePlot result={result} octave={octave} />
    case 'early':
      return <EarlyPlot result={result} forecast={forecast} />
    case 'ringing':
      return <RingingPlot result={result} forecast={forecast} from={lowestNote(forecast)} />
    case 'low':
      return forecast ? (
        <LowEndPlot forecast={forecast} result={result} simulated={simulated} from={lowestNote(forecast)} />
      ) : null
  }
}
