import { useContext, useState } from 'react'
import type { Forecast } from '../api/client'
import { ModeList } from '../plots/mode-list'
import { PathList } from '../plots/path-list'
import { DecayPlot } from '../plots/decay-plot'
import { LowEndPlot } from '../plots/low-end-plot'
import { PlotHeight } from '../plots/xy-plot'
import { BenchHeight } from './height'
import { useDesk } from '../rooms/use-desk'
import { useSoften } from '../room/use-soften'
import { usePredicted } from '../state/forecast'
import { Segmented } from '../ui/segmented'
import type { ReadingOf } from './of-form'
import { useBest } from './use-best'

const LOOKS = [
  { key: 'decay', name: 'Decay' },
  { key: 'low', name: 'Low end' },
  { key: 'notes', name: 'Notes' },
  { key: 'paths', name: 'Returns' },
] as const
type Look = (typeof LOOKS)[number]['key']

type Props = {
  /** What is looked at until something else is chosen. */
  first?: Look
  /** Shows the three statistical formulas apart. */
  formulas?: boolean
}

/** What is predicted for the arrangement in sight, the best response measured here beside it. */
export function PredictedStage({ first = 'decay', formulas = false }: Props) {
  const [look, setLook] = useState<Look>(first)
  const height = useContext(BenchHeight)
  const { active } = usePredicted()
  const reading = useBest('response')
  return (
    <div>
      <div className="mb-1.5">
        <Segmented small label="What to look at" value={look} options={LOOKS} onChange={setLook} />
      </div>
      <PlotHeight value={height}>
        {active && reading !== undefined ? (
          <Shown look={look} forecast={active} reading={reading} formulas={formulas} />
        ) : (
          <Waiting />
        )}
      </PlotHeight>
    </div>
  )
}

export const decayWanted = (forecast: Forecast | null): { low: number; high: number } | null => {
  const [low, high] = forecast?.marks.bounce.decay_wanted_s ?? [null, null]
  return low !== null && high !== null ? { low, high } : null
}
export const lowestNote = (forecast: Forecast | null) => forecast?.marks.boom.range_hz[0] ?? 40

export const Waiting = () => <div className="h-52 animate-pulse rounded-lg bg-floor" aria-label="Working" />

type ShownProps = { look: Look; forecast: Forecast; reading: ReadingOf<'response'> | null; formulas: boolean }

function Shown({ look, forecast, reading, formulas }: ShownProps) {
  const { mode, paint } = useDesk()
  const { soften } = useSoften()
  const { standing } = usePredicted()
  const measured = { result: reading?.result ?? null, simulated: reading?.simulated ?? false }
  switch (look) {
    case 'notes':
      return <ModeList forecast={forecast} chosenHz={mode?.f_hz ?? null} onChoose={paint} />
    case 'paths':
      return <PathList forecast={forecast} onSoften={soften} />
    case 'low':
      return <LowEndPlot forecast={forecast} former={standing} {...measured} from={lowestNote(forecast)} />
    case 'decay':
      return (
        <DecayPlot
          forecast={forecast}
          former={standing}
          {...measured}
          wanted={decayWanted(forecast)}
          formulas={formulas}
        />
      )
  }
}
