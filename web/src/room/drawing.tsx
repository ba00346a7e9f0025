import { useMemo, useState } from 'react'
import type { Edit } from '../api/client'
import { useDesk } from '../rooms/use-desk'
import { asUsed } from '../state/as-used'
import { useCatalogue, useFurnishingKinds } from '../state/catalogue'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import { TRYING } from '../state/trying'
import { useUnits } from '../state/units'
import { Sized } from '../ui/sized'
import { dimensionBoxes, Dimensions } from './dimensions'
import { Ears } from './ears'
import { Former } from './former'
import { mayBe } from './floor'
import { footprint, Furniture } from './furniture'
import { type Extent, extentOf, fitted, type PlanView, type PointM, type RectPx, toPx } from './geometry'
import { Hatches } from './hatches'
import { roomBoxes } from './label-space'
import type { Layer } from './layers/layer'
import { useLens } from './lens'
import type { Placement } from './movable'
import { CeilingLines } from './overlays'
import { highestOf } from './plan-shape'
import { ReadingSpots, type Spot } from './reading-spots'
import { FurnitureHandles, ShapeHandles } from './shape-handles'
import { TapeMark } from './tape-mark'
import { Treatments } from './treatments'
import { Walls } from './walls'

type Who = 'performer' | 'microphone'
export type DrawingProps = {
  layer: Layer
  /** Whether walls, corners and furniture are handles. */
  shapes?: boolean
  /** Where the microphone stood for readings, with how many each. */
  spots?: readonly Spot[]
  /** Beside something else: without lengths, to look at. */
  small?: boolean
}

/** The room, drawn to scale. It stays put through every step; a step changes what lies on it. */
export function Drawing(props: DrawingProps) {
  return <Sized>{(w, h) => <Sheet w={w} h={h} {...props} />}</Sized>
}

const NARROW_PX = 500

function Sheet({ w, h, layer, shapes = false, spots = [], small = false }: DrawingProps & { w: number; h: number }) {
  const { document: room, active, standing } = useRoom()
  const document = asUsed(room, active)
  const predicted = usePredicted()
  const units = useUnits()
  const { kinds, hatches } = useLooks()
  const extent = extentOf(document)
  // while something is dragged the sheet lies still, or the wall in hand would run away from the pointer
  const [held, setHeld] = useState<PlanView | null>(null)
  const fitting = fitted(extent, w, h, small || w < NARROW_PX ? 20 : 46)
  const lens = useLens(w, h, !small)
  const view = held ?? lens.through(fitting)
  const allowed = (heightM: number) => (p: PointM) => mayBe(document, kinds, p, heightM)
  const things = useObstacles(view, kinds)
  const dimensioned = !small && w >= NARROW_PX
  const obstacles = [
    ...things,
    ...roomBoxes(document, view),
    ...(dimensioned ? dimensionBoxes(extent, view) : []),
    ...(small ? [] : [lens.box]),
  ]
  const page = { x: 4, y: 4, w: w - 8, h: h - 8 }
  const [x0, y1] = toPx([extent.minX, extent.maxY], view)
  const sheet = {
    x: x0,
    y: y1,
    w: (extent.maxX - extent.minX) * view.pxPerM,
    h: (extent.maxY - extent.minY) * view.pxPerM,
  }
  const fresh = active.id === TRYING ? active.treatments.length - standing.treatments.length : 0
  const micAt: PointM = [active.microphone.at[0], active.microphone.at[1]]

  return (
    <svg
      viewBox={`0 0 ${w} ${h}`}
      width={w}
      height={h}
      role="group"
      aria-label={`Plan of ${document.name}, drawn to scale`}
      data-testid="drawing"
      onPointerDownCapture={(e) => setHeld(lens.pans(e.target) ? null : view)}
      {...lens.props}
      onPointerUp={() => {
        setHeld(null)
        lens.release()
      }}
      onPointerCancel={() => setHeld(null)}
    >
      <Hatches />
      <Walls document={document} view={view} hatchOf={(key) => hatches[key ?? ''] ?? 'solid'} />
      <Furniture document={document} view={view} kinds={kinds} />
      <Treatments document={document} arrangement={active} view={view} fresh={Math.max(fresh, 0)} />
      <path
        d={`M${document.shape.plan.map((p) => toPx(p as PointM, view).join(' ')).join('L')}Z`}
        fill="url(#paper-grain)"
        pointerEvents="none"
      />
      <CeilingLines forecast={predicted.active} view={view} />
      {layer.Plan ? <layer.Plan view={view} obstacles={obstacles} sheet={sheet} page={page} /> : null}
      {shapes && w >= NARROW_PX ? (
        <>
          <FurnitureHandles view={view} names={kinds} />
          <Walled view={view} />
        </>
      ) : w >= NARROW_PX && !small ? (
        <Dimensions extent={extent} view={view} units={units} heightM={highestOf(document.shape.ceiling)} />
      ) : null}
      {active.id === TRYING ? <Former standing={standing} active={active} view={view} /> : null}
      <ReadingSpots spots={spots} mic={micAt} view={view} />
      <Ears view={view} extent={extent} allowed={allowed} />
      <Marks view={view} extent={extent} allowed={allowed} />
      {small ? null : lens.buttons}
    </svg>
  )
}

function Walled({ view }: { view: PlanView }) {
  const { wall, setWall } = useDesk()
  return <ShapeHandles view={view} chosen={wall} onChoose={setWall} />
}

/** What furniture and materials look like, by their keys. */
function useLooks() {
  const { materials } = useCatalogue()
  const kinds = useFurnishingKinds()
  const hatches = useMemo(() => Object.fromEntries(materials.map((m) => [m.key, m.hatch])), [materials])
  return { kinds, hatches }
}

/** What labels keep off: furniture, the marks with their names, where they stood before. */
function useObstacles(view: PlanView, kinds: ReturnType<typeof useLooks>['kinds']): RectPx[] {
  const { document, active, standing } = useRoom()
  const at = (m: { at: readonly number[] }) => toPx([m.at[0]!, m.at[1]!], view)
  const [performer, mic] = [at(active.performer), at(active.microphone)]
  const performerAbove = performer[1] <= mic[1]
  const former: RectPx[] =
    active.id === TRYING
      ? [standing.performer, standing.microphone].map((m) => ({ x: at(m)[0] - 9, y: at(m)[1] - 9, w: 18, h: 18 }))
      : []
  return [
    ...asUsed(document, active).furnishings.map((piece) => footprint(piece, view, kinds)),
    ...[performer, mic].flatMap(([x, y], i) => [
      { x: x - 16, y: y - 16, w: 32, h: 32 },
      { x: x - 30, y: (i === 0) === performerAbove ? y - 36 : y + 14, w: 60, h: 20 },
    ]),
    ...[...active.monitors, ...[active.listener, active.laptop].filter((m) => m != null)].map((m) => ({
      x: at(m)[0] - 34,
      y: at(m)[1] - 36,
      w: 68,
      h: 72,
    })),
    ...former,
  ]
}

/** The two marks on the floor: who sounds, and what listens. */
function Marks({
  view,
  extent,
  allowed,
}: {
  view: PlanView
  extent: Extent
  allowed: (heightM: number) => (p: PointM) => boolean
}) {
  const { active, edit, drag } = useRoom()
  const { patterns, sources } = useCatalogue()
  const placement: Record<Who, Placement> = {
    performer: { at: [active.performer.at[0], active.performer.at[1]], facesDeg: active.performer.faces_deg },
    microphone: { at: [active.microphone.at[0], active.microphone.at[1]], facesDeg: active.microphone.aims_deg },
  }
  const moves = (who: Who) => {
    const place = ({ at, facesDeg }: Placement): Edit => ({
      do: 'place',
      who,
      at: [at[0], at[1], active[who].at[2]],
      turn_deg: facesDeg,
      tilt_deg: active.microphone.tilt_deg,
    })
    return { onMove: (to: Placement) => drag(place(to)), onMoveEnd: (to: Placement) => edit(place(to)) }
  }
  const performerAbove = toPx(placement.performer.at, view)[1] <= toPx(placement.microphone.at, view)[1]
  const name = sources.find((s) => s.key === active.performer.source)?.name.toLowerCase() ?? 'performer'
  const pressure = patterns.find((p) => p.key === active.microphone.pattern)?.pressure ?? 0.5
  return (
    <>
      <TapeMark
        label="mic"
        view={view}
        within={extent}
        allowed={allowed(active.microphone.at[2])}
        placement={placement.microphone}
        other={placement.performer.at}
        look={{ colour: 'var(--mic)', shape: 'upright', pattern: pressure }}
        labelAt={performerAbove ? 'below' : 'above'}
        {...moves('microphone')}
      />
      <TapeMark
        label={name.replace(/^(sung|spoken|soft|loud) /, '')}
        view={view}
        within={extent}
        allowed={allowed(active.performer.at[2])}
        placement={placement.performer}
        other={placement.microphone.at}
        look={{ colour: 'var(--change)', shape: 'saltire' }}
        labelAt={performerAbove ? 'above' : 'below'}
        {...moves('performer')}
      />
    </>
  )
}
