import { useId } from 'react'
import type { RoomDoc } from '../api/client'
import {
  isThere,
  onWall,
  type PlanView,
  type PointM,
  type PointPx,
  toPx,
  type Wall,
  WALL_PX,
  wallsOf,
} from './geometry'

const path = (points: readonly PointPx[], close = true) =>
  `M${points.map((p) => `${p[0].toFixed(1)} ${p[1].toFixed(1)}`).join('L')}${close ? 'Z' : ''}`

type Props = {
  document: Pick<RoomDoc, 'shape' | 'surfaces' | 'openings'> & { covers?: RoomDoc['covers'] }
  view: PlanView
  hatchOf: (material: string | null | undefined) => string
}

export function Walls({ document, view, hatchOf }: Props) {
  const floor = document.shape.plan.map((p) => toPx(p as PointM, view))
  const floorMaterial = document.surfaces['floor']?.material ?? 'floor-boards'
  return (
    <g>
      <path d={path(floor)} fill="var(--floor)" data-testid="floor" />
      {floorMaterial.includes('floor-boards') || floorMaterial.includes('parquet') ? (
        <Boards floor={floor} pxPerM={view.pxPerM} />
      ) : null}
      {wallsOf(document).map((wall, i) => (
        <WallStrip
          key={wall.name}
          wall={wall}
          view={view}
          hatch={hatchOf(document.surfaces[wall.name]?.material)}
          over={[turnsIn(document.shape.plan, i), turnsIn(document.shape.plan, i + 1)]}
        />
      ))}
      {wallsOf(document).flatMap((wall) =>
        (document.surfaces[wall.name]?.regions ?? []).map((region, i) => (
          <Part
            key={`${wall.name}-${i}`}
            wall={wall}
            view={view}
            from={region.x_m}
            to={region.x_m + region.width_m}
            hatch={hatchOf(region.material)}
          />
        )),
      )}
      {document.openings.map((opening, i) => {
        const wall = wallsOf(document).find((w) => w.name === opening.surface)
        if (!wall) return null
        return opening.kind === 'window' ? (
          <Window key={i} wall={wall} view={view} from={opening.x_m} to={opening.x_m + opening.width_m} />
        ) : (
          <Door
            key={i}
            wall={wall}
            view={view}
            from={opening.x_m}
            to={opening.x_m + opening.width_m}
            hinge={opening.hinge ?? 'right'}
            state={opening.state ?? 'shut'}
          />
        )
      })}
      <Covers document={document} view={view} />
      <path d={path(floor)} fill="none" stroke="var(--line-strong)" strokeWidth={1.2} />
    </g>
  )
}

/** Floorboards: a faint hint of lengths, enough to tell wood from carpet. */
function Boards({ floor, pxPerM }: { floor: readonly PointPx[]; pxPerM: number }) {
  const clip = useId()
  const xs = floor.map((p) => p[0])
  const ys = floor.map((p) => p[1])
  const [x0, x1, y0, y1] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const step = Math.max(pxPerM * 0.14, 9)
  const rows = Array.from({ length: Math.floor((y1 - y0) / step) }, (_, i) => y0 + (i + 1) * step)
  return (
    <g stroke="var(--line)" strokeWidth={0.8} opacity={0.55}>
      <clipPath id={clip}>
        <path d={path(floor)} />
      </clipPath>
      <g clipPath={`url(#${clip})`}>
        {rows.map((y, i) => (
          <path
            key={i}
            d={`M${x0} ${y}H${x1}M${x0 + (((i * 137) % 100) / 100) * (x1 - x0)} ${y}v${-step}M${x0 + (((i * 61 + 40) % 100) / 100) * (x1 - x0)} ${y}v${-step}`}
          />
        ))}
      </g>
    </g>
  )
}

function strip(wall: Wall, view: PlanView, from: number, to: number, inner: number, outer: number): PointPx[] {
  const m = (px: number) => -px / view.pxPerM
  return [
    onWall(wall, from, m(inner)),
    onWall(wall, to, m(inner)),
    onWall(wall, to, m(outer)),
    onWall(wall, from, m(outer)),
  ].map((p) => toPx(p, view))
}

const lengthOf = (wall: Wall) => Math.hypot(wall.to[0] - wall.from[0], wall.to[1] - wall.from[1])

/** Whether the plan turns left at a corner (into the room), so that two strips must overlap to close it. */
function turnsIn(plan: readonly (readonly number[])[], corner: number): boolean {
  const at = (k: number) => plan[(k + plan.length) % plan.length]!
  const [a, b, c] = [at(corner - 1), at(corner), at(corner + 1)]
  return (b[0]! - a[0]!) * (c[1]! - b[1]!) - (b[1]! - a[1]!) * (c[0]! - b[0]!) > 0
}

type StripProps = { wall: Wall; view: PlanView; hatch: string; over: readonly [boolean, boolean] }

function WallStrip({ wall, view, hatch, over }: StripProps) {
  const ends = over.map((needed) => (needed ? WALL_PX / view.pxPerM : 0))
  const outline = strip(wall, view, -ends[0]!, lengthOf(wall) + ends[1]!, 0, WALL_PX)
  const turn = Math.abs(wall.outward[0]) > 0.7 ? 90 : 0
  return (
    <g>
      <path d={path(outline)} fill="var(--wall)" />
      <path d={path(outline)} fill={`url(#hatch-${hatch}-${turn})`} />
    </g>
  )
}

function Window({ wall, view, from, to }: { wall: Wall; view: PlanView; from: number; to: number }) {
  const gap = strip(wall, view, from, to, -0.5, WALL_PX + 0.5)
  const pane = (inner: number) => strip(wall, view, from, to, inner, inner).slice(0, 2)
  const jamb = (at: number) => strip(wall, view, at, at, 0, WALL_PX).slice(1, 3)
  return (
    <g stroke="var(--ink-2)" strokeWidth={1.3} fill="none">
      <path d={path(gap)} fill="var(--card)" stroke="none" />
      <path d={path(pane(WALL_PX * 0.38), false)} />
      <path d={path(pane(WALL_PX * 0.62), false)} />
      <path d={path(jamb(from), false)} />
      <path d={path(jamb(to), false)} />
    </g>
  )
}

function Door({
  wall,
  view,
  from,
  to,
  hinge,
  state,
}: {
  wall: Wall
  view: PlanView
  from: number
  to: number
  hinge: string
  state: string
}) {
  const gap = strip(wall, view, from, to, -0.5, WALL_PX + 0.5)
  const width = to - from
  const [pivot, free] = hinge === 'left' ? [from, to] : [to, from]
  const at = toPx(onWall(wall, pivot), view)
  const open = toPx(onWall(wall, pivot, width), view)
  const shut = toPx(onWall(wall, free), view)
  const r = width * view.pxPerM
  const part = state === 'open' ? 1 : state === 'ajar' ? 0.28 : 0
  const turn = (part * Math.PI) / 2
  const leaf = [0, 1].map((k) => at[k]! + (shut[k]! - at[k]!) * Math.cos(turn) + (open[k]! - at[k]!) * Math.sin(turn))
  const cross = (open[0] - at[0]) * (shut[1] - at[1]) - (open[1] - at[1]) * (shut[0] - at[0])
  return (
    <g fill="none" stroke="var(--ink-2)">
      <path d={path(gap)} fill="var(--paper)" stroke="none" />
      <path d={`M${at[0]} ${at[1]}L${leaf[0]} ${leaf[1]}`} strokeWidth={2.2} />
      <path
        d={`M${at[0]} ${at[1]}L${open[0]} ${open[1]}A${r} ${r} 0 0 ${cross > 0 ? 1 : 0} ${shut[0]} ${shut[1]}`}
        strokeDasharray="3 4"
        strokeWidth={1}
        opacity={0.8}
      />
    </g>
  )
}

/** A part of a wall made of something else: its own hatch over the wall's, between two ticks. */
function Part({
  wall,
  view,
  from,
  to,
  hatch,
}: {
  wall: Wall
  view: PlanView
  from: number
  to: number
  hatch: string
}) {
  const turn = Math.abs(wall.outward[0]) > 0.7 ? 90 : 0
  const outline = path(strip(wall, view, from, to, 0, WALL_PX * 0.55))
  return (
    <g>
      <path d={outline} fill="var(--card)" />
      <path d={outline} fill={`url(#hatch-${hatch}-${turn})`} stroke="var(--line-strong)" strokeWidth={1} />
    </g>
  )
}

/** Cloth that belongs to the room: curtains as folds before their wall, bunched when not drawn; rugs woven on the floor. */
export function Covers({
  document,
  view,
}: {
  document: Pick<RoomDoc, 'shape'> & { covers?: RoomDoc['covers'] }
  view: PlanView
}) {
  const walls = wallsOf(document)
  return (
    <g>
      {(document.covers ?? []).filter(isThere).map((c, i) => {
        if (c.surface === 'floor') {
          const [x, y] = toPx([c.x_m, c.z_m + c.height_m] as PointM, view)
          return (
            <rect
              key={i}
              x={x}
              y={y}
              width={c.width_m * view.pxPerM}
              height={c.height_m * view.pxPerM}
              rx={3}
              fill="url(#rug-weave)"
              stroke="var(--line-strong)"
              strokeWidth={1.1}
            />
          )
        }
        const wall = walls.find((w) => w.name === c.surface)
        if (!wall) return null
        const side = c.width_m * 0.14
        const spans =
          c.drawn || c.kind === 'blanket'
            ? [[c.x_m, c.x_m + c.width_m]]
            : [
                [c.x_m, c.x_m + side],
                [c.x_m + c.width_m - side, c.x_m + c.width_m],
              ]
        return spans.map(([a, b], k) => (
          <path
            key={`${i}-${k}`}
            d={folds(wall, view, a!, b!, Math.max(c.gap_m, 0.05), c.drawn ? 9 : 4.5)}
            fill="none"
            stroke="var(--felt)"
            strokeWidth={2.2}
            strokeLinejoin="round"
          />
        ))
      })}
    </g>
  )
}

function folds(wall: Wall, view: PlanView, from: number, to: number, gap: number, foldPx: number): string {
  const count = Math.max(Math.round(((to - from) * view.pxPerM) / foldPx), 3)
  const points = Array.from({ length: count + 1 }, (_, i) =>
    toPx(onWall(wall, from + ((to - from) * i) / count, gap + (i % 2 ? 5 : 0) / view.pxPerM), view),
  )
  return path(points, false)
}
