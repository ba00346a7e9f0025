import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import type { Arrangement, Forecast } from '../api/client'
import { roomQueries } from '../api/queries'
import { usePredicted } from '../state/forecast'
import { TRYING, useRoom, withArrangement } from '../state/room'
import { useUnits } from '../state/units'
import { Dimensions } from './dimensions'
import { footprint, Furniture } from './furniture'
import { type Extent, extentOf, fitted, type PlanView, type PointM, type RectPx, toPx } from './geometry'
import { Hatches } from './hatches'
import type { Placement } from './movable'
import { PathLines } from './path-lines'
import { Swell } from './swell'
import { TapeMark } from './tape-mark'
import { Treatments } from './treatments'
import { CeilingLines, FlutterMarks } from './overlays'
import { footprintOf, highestOf, inside, type Plan, wallGap } from './plan-shape'
import { FurnitureHandles, ShapeHandles } from './shape-handles'
import { Walls } from './walls'
import { Sized } from '../ui/sized'

export type Layer = 'paths' | 'swell' | 'flutter' | 'bare'
export type PathHit = Forecast['paths'][number]
const PATTERN: Record<string, number> = {
  omni: 1,
  subcardioid: 0.7,
  cardioid: 0.5,
  supercardioid: 0.37,
  hypercardioid: 0.25,
  'figure-8': 0,
}

export type DrawingProps = {
  layer: Layer
  mode: Forecast['modes'][number] | null
  /** On the Tape step walls, corners and furniture are handles. */
  editing: boolean
  wall: number | null
  onWall: (wall: number | null) => void
  /** A reflection's hit point was chosen. */
  onHit: (path: PathHit) => void
  /** Height at which the swell is painted; the microphone's when it is not said. */
  swellHeightM?: number | null
  /** Where the microphone stood for readings, with how many each. */
  spots?: readonly Spot[]
}
export type Spot = { at: PointM; count: number }

/** The room, drawn to scale. It stays put through every step; a step changes what lies on it. */
export function Drawing(props: DrawingProps) {
  return <Sized>{(w, h) => <Sheet w={w} h={h} {...props} />}</Sized>
}

function Sheet({
  w,
  h,
  layer,
  mode,
  editing,
  wall,
  onWall,
  onHit,
  swellHeightM = null,
  spots = [],
}: DrawingProps & { w: number; h: number }) {
  const { document, active, standing, change, preview } = useRoom()
  const predicted = usePredicted()
  const units = useUnits()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const kinds = useMemo(() => Object.fromEntries((catalogue?.furnishings ?? []).map((k) => [k.key, k])), [catalogue])
  const hatches = useMemo(
    () => Object.fromEntries((catalogue?.materials ?? []).map((m) => [m.key, m.hatch])),
    [catalogue],
  )
  const extent = extentOf(document)
  // while something is dragged the sheet lies still, or the wall in hand would run away from the pointer
  const [held, setHeld] = useState<PlanView | null>(null)
  const fitting = fitted(extent, w, h, w < 500 ? 20 : 46)
  const view = held ?? fitting
  const roomHeight = highestOf(document.shape.ceiling)
  const plan = document.shape.plan as Plan
  const bodies = document.furnishings.filter((f) => kinds[f.kind]?.blocks && (f.size_m?.[2] ?? 1) > 1.2)
  const allowed = (p: PointM) =>
    inside(plan, p) && wallGap(plan, p) > 0.04 && !bodies.some((f) => inside(footprintOf(f), p))
  const { data: swell } = useQuery(
    roomQueries.swell(document, active.id, 'plan', swellHeightM, layer === 'swell' && predicted.active !== null),
  )

  const performer: Placement = {
    at: [active.performer.at[0], active.performer.at[1]],
    facesDeg: active.performer.faces_deg,
  }
  const mic: Placement = {
    at: [active.microphone.at[0], active.microphone.at[1]],
    facesDeg: active.microphone.aims_deg,
  }
  const placed = (who: 'performer' | 'microphone', next: Placement): Arrangement =>
    who === 'performer'
      ? {
          ...active,
          performer: {
            ...active.performer,
            at: [next.at[0], next.at[1], active.performer.at[2]],
            faces_deg: next.facesDeg,
          },
        }
      : {
          ...active,
          microphone: {
            ...active.microphone,
            at: [next.at[0], next.at[1], active.microphone.at[2]],
            aims_deg: next.facesDeg,
          },
        }
  const move = (who: 'performer' | 'microphone') => ({
    onMove: (next: Placement) => preview(withArrangement(document, placed(who, next))),
    onMoveEnd: (next: Placement) => change(`move the ${who}`, (now) => withArrangement(now, placed(who, next))),
  })

  const performerPx = toPx(performer.at, view)
  const micPx = toPx(mic.at, view)
  const performerAbove = performerPx[1] <= micPx[1]
  const obstacles: RectPx[] = [
    ...document.furnishings.map((piece) => footprint(piece, view, kinds)),
    ...[performerPx, micPx].flatMap(([x, y], i) => [
      { x: x - 16, y: y - 16, w: 32, h: 32 },
      { x: x - 30, y: (i === 0) === performerAbove ? y - 36 : y + 14, w: 60, h: 20 },
    ]),
    ...[...active.monitors, ...(active.listener ? [active.listener] : [])].map((m) => {
      const [x, y] = toPx([m.at[0], m.at[1]], view)
      return { x: x - 34, y: y - 36, w: 68, h: 72 }
    }),
  ]
  if (active.id === TRYING)
    for (const who of ['performer', 'microphone'] as const) {
      const [x, y] = toPx([standing[who].at[0], standing[who].at[1]], view)
      obstacles.push({ x: x - 9, y: y - 9, w: 18, h: 18 })
    }
  const [x0, y1] = toPx([extent.minX, extent.maxY], view)
  const inner = {
    x: x0,
    y: y1,
    w: (extent.maxX - extent.minX) * view.pxPerM,
    h: (extent.maxY - extent.minY) * view.pxPerM,
  }
  const name = catalogue?.sources.find((s) => s.key === active.performer.source)?.name.toLowerCase() ?? 'performer'
  const fresh = active.id === TRYING ? active.treatments.length - standing.treatments.length : 0

  return (
    <svg
      viewBox={`0 0 ${w} ${h}`}
      width={w}
      height={h}
      role="group"
      aria-label={`Plan of ${document.name}, drawn to scale`}
      data-testid="drawing"
      onPointerDownCapture={() => setHeld(fitting)}
      onPointerUp={() => setHeld(null)}
      onPointerCancel={() => setHeld(null)}
    >
      <Hatches />
      <Walls document={document} view={view} hatchOf={(key) => hatches[key ?? ''] ?? 'solid'} />
      <Furniture document={{ ...document, arrangements: [active] }} view={view} kinds={kinds} />
      <Treatments document={document} arrangement={active} view={view} fresh={Math.max(fresh, 0)} />
      <path
        d={`M${document.shape.plan.map((p) => toPx(p as PointM, view).join(' ')).join('L')}Z`}
        fill="url(#paper-grain)"
        pointerEvents="none"
      />
      {layer === 'paths' && predicted.active ? (
        <PathLines
          paths={predicted.active.paths}
          performer={performer.at as PointM}
          mic={mic.at as PointM}
          view={view}
          obstacles={obstacles}
          sheet={inner}
          onHit={onHit}
        />
      ) : null}
      <CeilingLines forecast={predicted.active} view={view} />
      {layer === 'flutter' && predicted.active ? (
        <FlutterMarks pairs={predicted.active.flutter} view={view} obstacles={obstacles} sheet={inner} />
      ) : null}
      {layer === 'swell' && mode && swell?.plane === 'plan' ? (
        <Swell map={swell} fHz={mode.f_hz} toPx={(p) => toPx(p, view)} pxPerM={view.pxPerM} />
      ) : null}
      {editing && w >= 500 ? (
        <>
          <FurnitureHandles view={view} names={kinds} />
          <ShapeHandles view={view} chosen={wall} onChoose={onWall} />
        </>
      ) : w >= 500 ? (
        <Dimensions extent={extent} view={view} units={units} heightM={roomHeight} />
      ) : null}
      {active.id === TRYING ? <Former standing={standing} active={active} view={view} /> : null}
      <ReadingSpots spots={spots} mic={mic.at as PointM} view={view} />
      <Ears view={view} extent={extent} allowed={allowed} />
      <TapeMark
        label="mic"
        view={view}
        within={extent}
        allowed={allowed}
        placement={mic}
        look={{ colour: 'var(--mic)', shape: 'upright', pattern: PATTERN[active.microphone.pattern] ?? 0.5 }}
        labelAt={performerAbove ? 'below' : 'above'}
        {...move('microphone')}
      />
      <TapeMark
        label={name.replace(/^(sung|spoken|soft|loud) /, '')}
        view={view}
        within={extent}
        allowed={allowed}
        placement={performer}
        look={{ colour: 'var(--change)', shape: 'saltire' }}
        labelAt={performerAbove ? 'above' : 'below'}
        {...move('performer')}
      />
    </svg>
  )
}

/** Where readings were taken: small rings with their number, left out where the microphone stands now. */
function ReadingSpots({ spots, mic, view }: { spots: readonly Spot[]; mic: PointM; view: PlanView }) {
  const elsewhere = spots.filter(({ at }) => Math.hypot(at[0] - mic[0], at[1] - mic[1]) > 0.06)
  return (
    <g data-testid="reading-spots" pointerEvents="none">
      {elsewhere.map(({ at, count }) => {
        const [x, y] = toPx(at, view)
        return (
          <g key={at.join()}>
            <circle
              cx={x}
              cy={y}
              r={9}
              fill="var(--card)"
              stroke="var(--mic)"
              strokeWidth={1.6}
              strokeDasharray="3 2"
            />
            <text x={x} y={y + 4} textAnchor="middle" fontSize={11.5} fontWeight={600} style={{ fill: 'var(--mic)' }}>
              {count}
            </text>
          </g>
        )
      })}
    </g>
  )
}

/** Monitors and the chair that listens to them, where there are any. */
function Ears({ view, extent, allowed }: { view: PlanView; extent: Extent; allowed: (p: PointM) => boolean }) {
  const { document, active, change, preview } = useRoom()
  const at3 = (next: Placement, z: number): [number, number, number] => [next.at[0], next.at[1], z]
  const monitor = (i: number, next: Placement): Arrangement => ({
    ...active,
    monitors: active.monitors.map((m, k) => (k === i ? { at: at3(next, m.at[2]), faces_deg: next.facesDeg } : m)),
  })
  const chair = (next: Placement): Arrangement => ({
    ...active,
    listener: active.listener ? { at: at3(next, active.listener.at[2]), faces_deg: next.facesDeg } : null,
  })
  const moves = (what: string, next: (to: Placement) => Arrangement) => ({
    onMove: (to: Placement) => preview(withArrangement(document, next(to))),
    onMoveEnd: (to: Placement) => change(`move the ${what}`, (now) => withArrangement(now, next(to))),
  })
  const placement = (m: { at: readonly number[]; faces_deg: number }): Placement => ({
    at: [m.at[0]!, m.at[1]!],
    facesDeg: m.faces_deg,
  })
  return (
    <g>
      {active.monitors.map((m, i) => (
        <TapeMark
          key={i}
          label={active.monitors.length === 2 ? `monitor ${'LR'[i]}` : 'monitor'}
          view={view}
          within={extent}
          allowed={allowed}
          placement={placement(m)}
          look={{ colour: 'var(--boom)', shape: 'tee' }}
          labelAt="below"
          {...moves('monitor', (to) => monitor(i, to))}
        />
      ))}
      {active.listener ? (
        <TapeMark
          label="chair"
          view={view}
          within={extent}
          allowed={allowed}
          placement={placement(active.listener)}
          look={{ colour: 'var(--touch)', shape: 'chair' }}
          labelAt="above"
          {...moves('chair', chair)}
        />
      ) : null}
    </g>
  )
}

/** Where the marks stood before the move being tried: pale crosses and the way from them. */
function Former({
  standing,
  active,
  view,
}: {
  standing: Arrangement
  active: Arrangement
  view: Parameters<typeof toPx>[1]
}) {
  return (
    <g stroke="var(--change)" strokeWidth={1.5} fill="none" opacity={0.75}>
      {(['performer', 'microphone'] as const).map((who) => {
        const a = toPx([standing[who].at[0], standing[who].at[1]], view)
        const b = toPx([active[who].at[0], active[who].at[1]], view)
        if (Math.hypot(a[0] - b[0], a[1] - b[1]) < 3) return null
        return (
          <g key={who}>
            <path d={`M${a[0] - 5} ${a[1] - 5}l10 10M${a[0] + 5} ${a[1] - 5}l-10 10`} />
            <path d={`M${a.join(' ')}L${b.join(' ')}`} strokeDasharray="3 4" />
          </g>
        )
      })}
    </g>
  )
}
