import type { Forecast } from '../api/client'
import { type PlanView, type PointM, type RectPx, toPx } from './geometry'
import { LabelText } from './label-text'
import { alongLine, placeLabels } from './labels'

/** Where the ceiling bends or steps, dashed on the plan, with the heights of flat parts. */
export function CeilingLines({ forecast, view }: { forecast: Forecast | null; view: PlanView }) {
  const parts = (forecast?.shape.faces ?? []).filter((f) => f.kind === 'ceiling')
  if (parts.length < 2) return null
  // two parts share an edge: drawn once, or the dashes of one would fill the gaps of the other
  const edges = new Map<string, readonly [readonly number[], readonly number[]]>()
  for (const face of parts)
    face.corners.forEach((c, i) => {
      const next = face.corners[(i + 1) % face.corners.length]!
      const ends = [toPx([c[0], c[1]], view), toPx([next[0], next[1]], view)] as const
      edges.set(
        ends
          .map((p) => p.map((v) => v.toFixed(0)).join())
          .sort()
          .join(' '),
        ends,
      )
    })
  return (
    <g
      stroke="var(--line-strong)"
      strokeWidth={1.1}
      strokeDasharray="6 4"
      fill="none"
      pointerEvents="none"
      data-testid="ceiling-lines"
    >
      {[...edges].map(([key, [from, to]]) => (
        <path key={key} d={`M${from.join(' ')}L${to.join(' ')}`} />
      ))}
    </g>
  )
}

type FlutterProps = { pairs: Forecast['flutter']; view: PlanView; obstacles: RectPx[]; sheet: RectPx; page: RectPx }

/** Pairs of hard parallel walls: a zigzag to and fro where they face each other, with spacing and rate. */
export function FlutterMarks({ pairs, view, obstacles, sheet, page }: FlutterProps) {
  if (pairs.length === 0)
    return (
      <text data-testid="flutter" x={20} y={24} fontSize={13} style={{ fill: 'var(--ink-2)' }}>
        No two hard walls face each other squarely enough to flutter.
      </text>
    )
  const lasting = [...pairs].sort((a, b) => b.lasts_s - a.lasts_s)
  const drawn = lasting
    .filter((p) => Math.abs(p.across[2]) < 0.5)
    .slice(0, MOST_PAIRS)
    .map((pair, i) => {
      const middle = (axis: 0 | 1) => {
        const values = pair.outline.map((p) => p[axis])
        return Math.min(...values) + (Math.max(...values) - Math.min(...values)) * SPREAD[i]!
      }
      const from: PointM = [middle(0), middle(1)]
      const ends = [toPx(from, view), toPx([from[0] + pair.across[0], from[1] + pair.across[1]], view)] as const
      return { pair, ends, strong: Math.min(pair.lasts_s / 0.8, 1) }
    })
  const overhead = lasting.find((p) => Math.abs(p.across[2]) >= 0.5)
  const lines = drawn.flatMap(({ ends }) => alongLine(ends))
  // it has no place of its own on the plan: anywhere free will do
  const overheadWishes = overhead
    ? [0.25, 0.8, 0.5].map((t, k) => ({
        key: `overhead ${k}`,
        text: `floor and ceiling: ${rate(overhead)}`,
        at: [sheet.x + sheet.w * 0.5, sheet.y + sheet.h * t] as const,
        size: 12.5,
        weight: -k * 2,
      }))
    : []
  const labels = placeLabels(
    [
      ...overheadWishes,
      ...drawn.flatMap(({ pair, ends: [a, b], strong }) =>
        // three places to try along the line: only the first that is free is kept
        [0.5, 0.3, 0.72].map((t, k) => ({
          key: `${pair.surfaces.join('+')} ${k}`,
          text: rate(pair),
          at: [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t] as const,
          size: 12.5,
          weight: strong - k * 2,
        })),
      ),
    ],
    obstacles,
    page,
    lines,
  ).filter((label, i, all) => label.shown && !all.slice(0, i).some((b) => b.shown && nameOf(b) === nameOf(label)))
  return (
    <g data-testid="flutter">
      {drawn.map(({ pair, ends, strong }) => (
        <g key={pair.surfaces.join()} opacity={0.45 + 0.55 * strong} stroke="var(--bounce)">
          <path d={zigzag(...ends)} fill="none" strokeWidth={0.8 + 1.6 * strong} strokeLinejoin="round" />
          {ends.map((p, k) => (
            <circle key={k} cx={p[0]} cy={p[1]} r={4.5} fill="var(--card)" strokeWidth={2} />
          ))}
        </g>
      ))}
      {labels.map((label) => (
        <LabelText key={label.key} label={label} colour="var(--bounce)" halo="var(--floor)" />
      ))}
    </g>
  )
}

const MOST_PAIRS = 3
const SPREAD = [0.5, 0.68, 0.3]
const rate = (pair: Forecast['flutter'][number]) =>
  `${pair.rate_hz.toFixed(0)} a second for ${pair.lasts_s.toFixed(1)} s`
const nameOf = (label: { key: string }) => label.key.split(' ')[0]

/** To and fro between two points, drawn as a flat zigzag. */
function zigzag(a: readonly [number, number], b: readonly [number, number]): string {
  const long = Math.hypot(b[0] - a[0], b[1] - a[1])
  const [ux, uy] = [(b[0] - a[0]) / long, (b[1] - a[1]) / long]
  const points = [0, 1, 2].map((k) => [-uy * (k - 1) * 5, ux * (k - 1) * 5] as const)
  return `M${a[0] + points[0]![0]} ${a[1] + points[0]![1]}L${b[0] + points[1]![0] / 2} ${b[1] + points[1]![1] / 2}L${a[0] + points[2]![0]} ${a[1] + points[2]![1]}`
}
