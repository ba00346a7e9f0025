import type { Forecast } from '../api/client'
import { type Extent, type PlanView, toPx } from './geometry'

const CELLS = 44

/** The swell of one mode on the plan at microphone height: where its pressure is high and where it vanishes. */
export function Swell({
  mode,
  extent,
  view,
  heightM,
  roomHeightM,
}: {
  mode: Forecast['modes'][number]
  extent: Extent
  view: PlanView
  heightM: number
  roomHeightM: number
}) {
  const [l, m, n] = mode.indices ?? [0, 0, 0]
  const lx = extent.maxX - extent.minX
  const ly = extent.maxY - extent.minY
  const vertical = Math.abs(Math.cos((n * Math.PI * heightM) / roomHeightM))
  const step = Math.max(lx, ly) / CELLS
  const cells = []
  for (let i = 0; i * step < lx - 1e-9; i += 1)
    for (let j = 0; j * step < ly - 1e-9; j += 1) {
      const x = (i + 0.5) * step
      const y = (j + 0.5) * step
      const pressure = Math.abs(Math.cos((l * Math.PI * x) / lx) * Math.cos((m * Math.PI * y) / ly)) * vertical
      const [px, py] = toPx([extent.minX + x, extent.minY + y], view)
      const size = step * view.pxPerM
      const w = Math.min(size, (lx - i * step) * view.pxPerM)
      const h = Math.min(size, (ly - j * step) * view.pxPerM)
      const r = Math.sqrt(pressure) * size * 0.52
      if (r > 0.4 && w > size * 0.4 && h > size * 0.4) cells.push(<circle key={`${i}-${j}`} cx={px} cy={py} r={r} />)
    }
  return (
    <g fill="var(--boom)" opacity={0.42}>
      {cells}
    </g>
  )
}
