import type { Arrangement, RoomDoc } from '../api/client'
import { onWall, type PlanView, type PointM, toPx, wallsOf } from './geometry'

type Treatment = Arrangement['treatments'][number]

/** Thickness in which a treatment is drawn, never thinner than can be seen. [px] */
const depthPx = (t: Treatment, view: PlanView) =>
  Math.max(((t.absorber?.thickness_m ?? 0.06) + (t.absorber?.gap_m ?? 0)) * view.pxPerM, 9)

export function Treatments({
  document,
  arrangement,
  view,
  fresh,
}: {
  document: RoomDoc
  arrangement: Arrangement
  view: PlanView
  /** How many of the last treatments belong to the move being tried. */
  fresh: number
}) {
  const walls = wallsOf(document)
  const firstFresh = arrangement.treatments.length - fresh
  return (
    <g>
      {arrangement.treatments.map((t, i) => {
        const isFresh = i >= firstFresh
        if (t.surface === 'floor' || t.surface === 'ceiling')
          return <Flat key={i} t={t} view={view} isFresh={isFresh} />
        const wall = walls.find((w) => w.name === t.surface)
        if (!wall) return null
        const stroke = isFresh ? 'var(--change)' : 'var(--felt)'
        if (t.kind === 'panel') {
          const inside = depthPx(t, view) / view.pxPerM
          const corners = [
            onWall(wall, t.x_m),
            onWall(wall, t.x_m + t.width_m),
            onWall(wall, t.x_m + t.width_m, inside),
            onWall(wall, t.x_m, inside),
          ].map((p) => toPx(p, view))
          const d = `M${corners.map((p) => p.join(' ')).join('L')}Z`
          return (
            <g key={i}>
              <path d={d} fill="var(--felt)" stroke={stroke} strokeWidth={isFresh ? 2.5 : 1} />
            </g>
          )
        }
        return (
          <path
            key={i}
            d={wave(t, wall, view)}
            fill="none"
            stroke={isFresh ? 'var(--change)' : 'var(--felt)'}
            strokeWidth={3}
            strokeLinejoin="round"
          />
        )
      })}
    </g>
  )
}

function Flat({ t, view, isFresh }: { t: Treatment; view: PlanView; isFresh: boolean }) {
  const [x, y] = toPx([t.x_m, t.z_m + t.height_m] as PointM, view)
  const overhead = t.surface === 'ceiling'
  return (
    <rect
      x={x}
      y={y}
      width={t.width_m * view.pxPerM}
      height={t.height_m * view.pxPerM}
      rx={4}
      fill={overhead ? 'url(#felt-weave)' : 'url(#rug-weave)'}
      stroke={isFresh ? 'var(--change)' : overhead ? 'var(--felt)' : 'var(--line-strong)'}
      strokeDasharray={overhead ? '7 4' : undefined}
      strokeWidth={isFresh ? 2.2 : 1.2}
    />
  )
}

/** Cloth hangs in folds a little off its wall. */
function wave(t: Treatment, wall: Parameters<typeof onWall>[0], view: PlanView): string {
  const off = (t.kind === 'duvet' ? 0.14 : 0.1) * view.pxPerM
  const folds = Math.max(Math.round((t.width_m * view.pxPerM) / 9), 4)
  const points = Array.from({ length: folds + 1 }, (_, i) =>
    toPx(onWall(wall, t.x_m + (t.width_m * i) / folds, (off + (i % 2 ? 5 : 0)) / view.pxPerM), view),
  )
  return `M${points.map((p) => `${p[0].toFixed(1)} ${p[1].toFixed(1)}`).join('L')}`
}
