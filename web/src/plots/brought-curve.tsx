import { pitchAxis, rounded, trueMinus } from './axis'
import { type XY, XYPlot } from './xy-plot'

/** A response measured elsewhere, as it was brought. */
export function BroughtCurve({ name, points }: { name: string; points: XY[] }) {
  const levels = points.map((p) => p[1] ?? 0)
  const [from, to] = [points[0]?.[0] ?? 20, points.at(-1)?.[0] ?? 20000]
  return (
    <XYPlot
      question="What does the curve say?"
      answer={`${name}: ${points.length} points from ${from.toFixed(0)} to ${to.toFixed(0)} Hz. Lay it beside a sweep’s low end in “Table and compare”.`}
      x={pitchAxis(
        [from, to],
        [20, 31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000].filter((f) => f >= from && f <= to),
      )}
      y={{
        name: 'level',
        unit: 'dB',
        ...rounded(Math.min(...levels), Math.max(...levels) + 1),
        text: trueMinus,
      }}
      series={[{ name, unit: 'dB', points, colour: 'var(--ink)', kind: 'line' }]}
      fileName="curve"
    />
  )
}
