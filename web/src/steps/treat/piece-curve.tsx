import { scaleLinear } from 'd3-scale'
import { area, curveMonotoneX } from 'd3-shape'

const W = 112
const H = 30
const OCTAVES = ['63', '125', '250', '500', '1k', '2k', '4k', '8k']
const x = scaleLinear()
  .domain([0, 7])
  .range([1, W - 1])
const y = scaleLinear()
  .domain([0, 1.1])
  .range([H - 1, 1])
const shape = area<number>()
  .x((_, i) => x(i))
  .y0(H - 1)
  .y1((a) => y(Math.min(a, 1.1)))
  .curve(curveMonotoneX)

/** What a piece swallows from low to high, as a felt-filled silhouette. */
export function PieceCurve({ absorption, name }: { absorption: readonly number[]; name: string }) {
  const said = [1, 3, 5].map((i) => `${(Math.min(absorption[i]!, 1) * 100).toFixed(0)} % at ${OCTAVES[i]}`)
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="h-7 w-full"
      role="img"
      aria-label={`${name} swallows ${said.join(', ')} Hz`}
    >
      <path d={`M1 ${H - 1}H${W - 1}`} stroke="var(--line-strong)" />
      <path d={shape([...absorption]) ?? ''} fill="var(--felt)" opacity={0.75} />
    </svg>
  )
}
