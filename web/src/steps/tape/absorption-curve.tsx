import { scaleLinear, scaleLog } from 'd3-scale'
import { line } from 'd3-shape'

const W = 320
const H = 130
const M = { l: 30, r: 8, t: 8, b: 22 }
const x = scaleLog()
  .domain([44, 11300])
  .range([M.l, W - M.r])
const y = scaleLinear()
  .domain([0, 1.2])
  .range([H - M.b, M.t])

/** Absorption over pitch: 0 sends everything back, 1 swallows everything. */
export function AbsorptionCurve({
  points,
  label,
  tuned = null,
}: {
  points: readonly (readonly [number, number])[]
  label: string
  tuned?: number | null
}) {
  const drawn = line<readonly [number, number]>()
    .x((p) => x(p[0]))
    .y((p) => y(Math.min(p[1], 1.2)))
  const at = (f: number) =>
    points.reduce(
      (best, p) => (Math.abs(Math.log(p[0] / f)) < Math.abs(Math.log(best[0] / f)) ? p : best),
      points[0] ?? [f, 0],
    )[1]
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="w-full max-w-md"
      role="img"
      aria-label={
        points.length
          ? `${label}: swallows ${[125, 500, 2000].map((f) => `${(at(f) * 100).toFixed(0)} % at ${f} Hz`).join(', ')}`
          : `${label}: working`
      }
    >
      {[0, 0.5, 1].map((a) => (
        <g key={a}>
          <path d={`M${M.l} ${y(a)}H${W - M.r}`} stroke="var(--line)" />
          <text x={M.l - 5} y={y(a) + 4} textAnchor="end" fontSize="11" style={{ fill: 'var(--ink-2)' }}>
            {a * 100} %
          </text>
        </g>
      ))}
      {[63, 250, 1000, 4000].map((f) => (
        <text key={f} x={x(f)} y={H - 6} textAnchor="middle" fontSize="11" style={{ fill: 'var(--ink-2)' }}>
          {f >= 1000 ? `${f / 1000}k` : f}
          {f === 4000 ? ' Hz' : ''}
        </text>
      ))}
      {tuned && tuned > 44 ? (
        <path d={`M${x(tuned)} ${M.t}V${H - M.b}`} stroke="var(--change)" strokeDasharray="3 3" />
      ) : null}
      {points.length ? (
        <>
          <path
            d={`${drawn([[points[0]![0], 0], ...points, [points[points.length - 1]![0], 0]]) ?? ''}Z`}
            fill="var(--felt)"
            opacity="0.13"
          />
          <path
            d={drawn([...points]) ?? ''}
            fill="none"
            stroke="var(--felt)"
            strokeWidth="2.2"
            strokeLinejoin="round"
          />
        </>
      ) : null}
    </svg>
  )
}
