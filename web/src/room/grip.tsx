import { type KeyboardEvent, type PointerEvent, type ReactNode, useRef } from 'react'
import { useRoom } from '../state/room'
import type { PointM } from './geometry'
import { onSheet } from './movable'

type Props = {
  label: string
  /** CSS pixels on the sheet to metres, whatever the view. */
  toM: (px: readonly [number, number]) => PointM
  /** Way dragged since the start, in metres; `false` when it ends. */
  onDrag: (by: PointM, going: boolean) => void
  /** One step of the arrow keys, in metres. */
  onNudge: (by: PointM) => void
  onKey?: (key: string) => boolean
  onFocus?: () => void
  cursor?: string
  children: ReactNode
}

/** Anything on a drawing that is dragged or nudged: pointer, arrow keys (1 cm, Shift 10 cm), focus and a name. */
export function Grip({ label, toM, onDrag, onNudge, onKey, onFocus, cursor = 'grab', children }: Props) {
  const { preview } = useRoom()
  const start = useRef<PointM | null>(null)
  const last = useRef<PointM>([0, 0])
  const way = (event: PointerEvent<SVGElement>): PointM => {
    const [x, y] = toM(onSheet(event))
    return [x - start.current![0], y - start.current![1]]
  }
  return (
    <g
      role="button"
      tabIndex={0}
      aria-label={label}
      style={{ cursor, touchAction: 'none' }}
      onFocus={onFocus}
      onPointerDown={(event: PointerEvent<SVGElement>) => {
        event.currentTarget.setPointerCapture(event.pointerId)
        start.current = toM(onSheet(event))
        last.current = [0, 0]
      }}
      onPointerMove={(event: PointerEvent<SVGElement>) => {
        if (!start.current) return
        last.current = way(event)
        onDrag(last.current, true)
      }}
      onPointerUp={() => {
        if (start.current && Math.hypot(...last.current) > 0.004) onDrag(last.current, false)
        start.current = null
      }}
      onPointerCancel={() => {
        start.current = null
        preview(null) // the browser took the pointer: what was shown was not meant
      }}
      onKeyDown={(event: KeyboardEvent<SVGElement>) => {
        const step = event.shiftKey ? 0.1 : 0.01
        const ways: Record<string, PointM> = {
          ArrowLeft: [-step, 0],
          ArrowRight: [step, 0],
          ArrowUp: [0, step],
          ArrowDown: [0, -step],
        }
        const by = ways[event.key]
        if (by) onNudge(by)
        else if (!onKey?.(event.key)) return
        event.preventDefault()
        event.stopPropagation()
      }}
    >
      {children}
    </g>
  )
}
