import { type ComponentType, type ReactNode, useContext } from 'react'
import type { Form, Reading } from '../api/client'
import { BroughtCurve } from '../plots/brought-curve'
import { GlidePlot } from '../plots/glide-plot'
import { PlotHeight } from '../plots/xy-plot'
import { LevelPlot } from '../plots/level-plot'
import { partOf, PlayPart } from '../ui/play-part'
import { Unusable } from './empty'
import { BenchHeight } from './height'
import { isOf, type ReadingOf } from './of-form'
import { ResponseBench } from './response-bench'
import { ToneBench } from './tone-bench'

type Bench<F extends Form> = {
  /** Whether a reading gave what is drawn; one that was refused holds empty lists. */
  holds: (reading: ReadingOf<F>) => boolean
  Show: ComponentType<{ reading: ReadingOf<F> }>
}

/** How a reading of each form is shown. A new form is a bench here; a new kind of a known form needs none. */
const BENCHES: { [F in Form]: Bench<F> } = {
  response: { holds: ({ result }) => result.bands.length > 0, Show: ResponseBench },
  tone: { holds: ({ result }) => result.thirds.length > 0, Show: ToneBench },
  glide: {
    holds: ({ result }) => Boolean(result.curve),
    Show: ({ reading }) => <GlidePlot glide={reading.result} simulated={reading.simulated} />,
  },
  take: { holds: ({ result }) => (result.blocks_db?.length ?? 0) > 0, Show: TakeBench },
  curve: { holds: () => true, Show: CurveKept },
}

export function FormBench({ reading }: { reading: Reading }) {
  return shown(reading, reading.result.form)
}

function shown<F extends Form>(reading: Reading, form: F) {
  const { holds, Show } = BENCHES[form] as Bench<F>
  return isOf(reading, form) && holds(reading) ? (
    <Tall form={form}>
      <Show reading={reading} />
    </Tall>
  ) : (
    <Unusable reading={reading} />
  )
}

/** Forms with a single plot stand as tall as their place; benches with several looks see to it themselves. */
function Tall({ form, children }: { form: Form; children: ReactNode }) {
  const height = useContext(BenchHeight)
  return form === 'response' || form === 'tone' ? children : <PlotHeight value={height}>{children}</PlotHeight>
}

/** Level over time with its pops, and the sound itself. */
function TakeBench({ reading }: { reading: ReadingOf<'take'> }) {
  return (
    <div className="relative">
      <LevelPlot take={reading.result} />
      <div className="absolute right-20 -top-1">
        <PlayPart address={`${partOf(reading.id, 0, Math.max(reading.seconds, 0.1))}&level=false`} label="this take" />
      </div>
    </div>
  )
}

/** A curve brought from elsewhere, drawn as it is. */
function CurveKept({ reading }: { reading: ReadingOf<'curve'> }) {
  const { f_hz, level_db } = reading.result.curve
  return <BroughtCurve name={reading.file_name} points={f_hz.map((f, i) => [f, level_db[i]!])} />
}
