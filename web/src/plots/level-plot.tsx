import { ticksOf, trueMinus } from './axis'
import type { TakeResult } from './reading-data'
import { XYPlot } from './xy-plot'

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
        ticks: ticksOf(0, blocks.length * 0.1, 8),
        text: (v) => v.toFixed(0),
      }}
      y={{
        name: 'level',
        unit: 'dBFS',
        domain: [-72, 0],
        ticks: [-60, -40, -20, 0],
        text: trueMinus,
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
