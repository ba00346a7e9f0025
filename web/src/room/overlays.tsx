import type { Forecast } from '../api/client'
import { type PlanView, type PointM, toPx } from './geometry'

/** Where the ceiling bends or steps, dashed on the plan, with the heights of flat parts. */
export function CeilingLines({ forecast, view }: { forecast: Forecast | null; view: PlanView }) {
  const parts = (forecast?.shape.faces ?? []).filter((f) => f.kind === 'ceiling')
  if (parts.length < 2) return null
  return (
    <g stroke="var(--line-strong)" strokeWidth={1.1} strokeDasharray="6 4" fill="none" pointerEvents="none" data-testid="ceiling-lines">
      {parts.map((face) => (
        <path key={face.name} d={`M${face.corners.map((c) => toPx([c[0], c[1]], view).join(' ')).join('L')}Z`} />
      ))}
    </g>
  ) // prettier-ignore
}

/** Pairs of hard parallel walls: an arrow to and fro between them with spacing and rate. */
export function FlutterMarks({ pairs, view }: { pairs: Forecast['flutter']; view: PlanView }) {
  const flat = pairs.filter((p) => Math.abs(p.across[2]) < 0.5)
  const overhead = pairs.find((p) => Math.abs(p.across[2]) >= 0.5)
  return (
    <g data-testid="flutter">
      {flat.map((pair, i) => {
        const xs = pair.outline.map((p) => p[0])
        const ys = pair.outline.map((p) => p[1])
        const shift = 0.5 + 0.16 * (i % 3 === 0 ? 0 : i % 3 === 1 ? 1 : -1)
        const from: PointM = [Math.min(...xs) + (Math.max(...xs) - Math.min(...xs)) * shift, Math.min(...ys) + (Math.max(...ys) - Math.min(...ys)) * shift]
        const [a, b] = [toPx(from, view), toPx([from[0] + pair.across[0], from[1] + pair.across[1]], view)]
        const strong = Math.min(pair.lasts_s / 0.8, 1)
        const d = zigzag(a, b)
        return (
          <g key={pair.surfaces.join()} opacity={0.45 + 0.55 * strong}>
            <path d={d} fill="none" stroke="var(--bounce)" strokeWidth={1 + 2 * strong} strokeLinejoin="round" />
            {[a, b].map((p, k) => <circle key={k} cx={p[0]} cy={p[1]} r={4.5} fill="var(--card)" stroke="var(--bounce)" strokeWidth={2} />)}
            <text x={(a[0] + b[0]) / 2 + 8} y={(a[1] + b[1]) / 2 - 8 - 15 * (i % 2)} fontSize={12.5} fontWeight={600} style={{ fill: 'var(--bounce)' }} stroke="var(--floor)" strokeWidth={4} paintOrder="stroke">
              {pair.rate_hz.toFixed(0)} a second, {pair.lasts_s.toFixed(1)} s
            </text>
          </g>
        )
      })}
      {overhead ? (
        <text x={toPx([0, 0], view)[0] + 8} y={toPx([0, 0], view)[1] - 10} fontSize={12.5} fontWeight={600} style={{ fill: 'var(--bounce)' }} stroke="var(--floor)" strokeWidth={4} paintOrder="stroke">
          floor and ceiling: {overhead.rate_hz.toFixed(0)} a second, {overhead.lasts_s.toFixed(1)} s
        </text>
      ) : null}
      {pairs.length === 0 ? (
        <text x={20} y={24} fontSize={13} style={{ fill: 'var(--ink-2)' }}>No two hard walls face each other squarely enough to flutter.</text>
      ) : null}
    </g>
  ) // prettier-ignore
}

/** To and fro between two points, drawn as a flat zigzag. */
function zigzag(a: readonly [number, number], b: readonly [number, number]): string {
  const long = Math.hypot(b[0] - a[0], b[1] - a[1])
  const [ux, uy] = [(b[0] - a[0]) / long, (b[1] - a[1]) / long]
  const points = [0, 1, 2].map((k) => [-uy * (k - 1) * 5, ux * (k - 1) * 5] as const)
  return `M${a[0] + points[0]![0]} ${a[1] + points[0]![1]}L${b[0] + points[1]![0] / 2} ${b[1] + points[1]![1] / 2}L${a[0] + points[2]![0]} ${a[1] + points[2]![1]}`
}
