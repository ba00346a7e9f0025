import type { Units } from '../state/units'
import { lengthText } from '../state/units'
import { type Extent, type PlanView, type RectPx, toPx, WALL_PX } from './geometry'

/** Taped dimensions along two sides, like a survey drawing. */
export function Dimensions({
  extent,
  view,
  units,
  heightM,
}: {
  extent: Extent
  view: PlanView
  units: Units
  heightM: number
}) {
  const [x0, y0] = toPx([extent.minX, extent.minY], view)
  const [x1, y1] = toPx([extent.maxX, extent.maxY], view)
  const left = x0 - WALL_PX - 20
  const low = y0 + WALL_PX + 17
  const line = { stroke: 'var(--line-strong)', strokeWidth: 1.2, fill: 'none' }
  const text = { fontSize: 13, fontWeight: 600, style: { fill: 'var(--ink-2)' }, textAnchor: 'middle' as const }
  const paper = { stroke: 'var(--paper)', strokeWidth: 6, paintOrder: 'stroke' as const }
  const middleY = (y0 + y1) / 2
  return (
    <g>
      <path d={`M${left - 5} ${y0}h10M${left - 5} ${y1}h10M${left} ${y0}V${y1}`} {...line} />
      <text {...text} {...paper} transform={`translate(${left - 8} ${middleY}) rotate(-90)`}>
        {lengthText(extent.maxY - extent.minY, units)}
      </text>
      <path d={`M${x0} ${low - 5}v10M${x1} ${low - 5}v10M${x0} ${low}H${x1}`} {...line} />
      <text {...text} {...paper} x={(x0 + x1) / 2} y={low + 5}>
        {lengthText(extent.maxX - extent.minX, units)} · {lengthText(heightM, units)} high
      </text>
    </g>
  )
}

/** Where the taped dimensions lie, for keeping labels off them. */
export function dimensionBoxes(extent: Extent, view: PlanView): RectPx[] {
  const [x0, y0] = toPx([extent.minX, extent.minY], view)
  const [x1, y1] = toPx([extent.maxX, extent.maxY], view)
  return [
    { x: x0 - WALL_PX - 38, y: y1 - 8, w: 30, h: y0 - y1 + 16 },
    { x: x0 - 8, y: y0 + WALL_PX + 6, w: x1 - x0 + 16, h: 24 },
  ]
}
