import { type KeyboardEvent, type PointerEvent, useRef } from 'react'
import { clamp, degrees, type Extent, type PlanView, type PointM, snap, toM, turned } from './geometry'

export type Placement = { at: PointM; facesDeg: number }

type Options = {
  view: PlanView
  within: Extent
  /** Places that can be stood on; others are not moved to. */
  allowed?: ((at: PointM) => boolean) | undefined
  placement: Placement
  /** Redraws while dragging. */
  onMove: (next: Placement) => void
  /** Makes it last. */
  onMoveEnd: (next: Placement) => void
  /** The browser took the pointer away: what was redrawn was not meant. */
  onGivenUp: () => void
}

const KEEP_M = 0.05
const STEP_M = 0.01
const BIG_STEP_M = 0.1
const TURN_DEG = 5

const keptInside = ([x, y]: PointM, e: Extent): PointM => [
  snap(clamp(x, e.minX + KEEP_M, e.maxX - KEEP_M), STEP_M),
  snap(clamp(y, e.minY + KEEP_M, e.maxY - KEEP_M), STEP_M),
]

/** Pointer position on the sheet, whatever the page's zoom. */
export function onSheet(event: PointerEvent<SVGElement>): readonly [number, number] {
  const svg = event.currentTarget.ownerSVGElement!
  const box = svg.getBoundingClientRect()
  const scale = svg.viewBox.baseVal.width / box.width
  return [(event.clientX - box.left) * scale, (event.clientY - box.top) * scale]
}

/** Dragging, arrow keys (1 cm, Shift 10 cm) and turning ([ and ], 5 degrees) for a mark on the plan. */
export function useMovable({ view, within, allowed = () => true, placement, onMove, onMoveEnd, onGivenUp }: Options) {
  const grip = useRef<{ dx: number; dy: number; last: Placement } | null>(null)
  const turning = useRef<Placement | null>(null)

  const handleProps = {
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      event.currentTarget.setPointerCapture(event.pointerId)
      const [x, y] = toM(onSheet(event), view)
      grip.current = { dx: placement.at[0] - x, dy: placement.at[1] - y, last: placement }
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      if (!grip.current) return
      const [x, y] = toM(onSheet(event), view)
      const next = { ...placement, at: keptInside([x + grip.current.dx, y + grip.current.dy], within) }
      if (!allowed(next.at)) return
      grip.current.last = next
      onMove(next)
    },
    onPointerUp: () => {
      if (grip.current && grip.current.last !== placement) onMoveEnd(grip.current.last)
      grip.current = null
    },
    onPointerCancel: () => {
      grip.current = null
      onGivenUp()
    },
    onKeyDown: (event: KeyboardEvent<SVGElement>) => {
      const step = event.shiftKey ? BIG_STEP_M : STEP_M
      const [x, y] = placement.at
      const places: Record<string, PointM> = {
        ArrowLeft: [x - step, y],
        ArrowRight: [x + step, y],
        ArrowUp: [x, y + step],
        ArrowDown: [x, y - step],
      }
      const place = places[event.key]
      const turn = event.key === '[' ? TURN_DEG : event.key === ']' ? -TURN_DEG : 0
      if (!place && !turn) return
      if (place && !allowed(keptInside(place, within))) return
      event.preventDefault()
      event.stopPropagation()
      onMoveEnd({
        at: place ? keptInside(place, within) : placement.at,
        facesDeg: turned(placement.facesDeg + turn),
      })
    },
  }

  const turnProps = {
    onPointerDown: (event: PointerEvent<SVGElement>) => {
      event.stopPropagation()
      event.currentTarget.setPointerCapture(event.pointerId)
      turning.current = placement
    },
    onPointerMove: (event: PointerEvent<SVGElement>) => {
      if (!turning.current) return
      const [x, y] = toM(onSheet(event), view)
      const angle = degrees(Math.atan2(y - placement.at[1], x - placement.at[0]))
      const next = { ...placement, facesDeg: turned(snap(angle, event.shiftKey ? 15 : 1)) }
      turning.current = next
      onMove(next)
    },
    onPointerUp: () => {
      if (turning.current && turning.current.facesDeg !== undefined) onMoveEnd(turning.current)
      turning.current = null
    },
    onPointerCancel: () => {
      turning.current = null
      onGivenUp()
    },
  }
  return { handleProps, turnProps }
}
