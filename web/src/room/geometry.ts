import type { RoomDoc } from '../api/client'

export type PointM = readonly [xM: number, yM: number]
export type PointPx = readonly [xPx: number, yPx: number]
export type PlanView = { originPx: PointPx; pxPerM: number }
export type RectPx = { x: number; y: number; w: number; h: number }

/** Thickness of a drawn wall; real walls are thicker, the drawing needs only to read as one. */
export const WALL_PX = 15

/** Whether cloth of the room is in it: a curtain drawn back still hangs at the sides, a rug rolled up is gone. */
export const isThere = (c: RoomDoc['covers'][number]) => c.drawn || c.kind === 'curtain'

/** Metres on the plan to CSS pixels on the sheet; y flips because screens count downwards. */
export const toPx = ([xM, yM]: PointM, { originPx, pxPerM }: PlanView): PointPx => [
  originPx[0] + xM * pxPerM,
  originPx[1] - yM * pxPerM,
]

export const toM = ([xPx, yPx]: PointPx, { originPx, pxPerM }: PlanView): PointM => [
  (xPx - originPx[0]) / pxPerM,
  (originPx[1] - yPx) / pxPerM,
]

export type Extent = { minX: number; minY: number; maxX: number; maxY: number }

export function extentOf(document: Pick<RoomDoc, 'shape'>): Extent {
  const xs = document.shape.plan.map((p) => p[0])
  const ys = document.shape.plan.map((p) => p[1])
  return { minX: Math.min(...xs), minY: Math.min(...ys), maxX: Math.max(...xs), maxY: Math.max(...ys) }
}

/** The view that shows the whole room with its walls and dimensions inside a sheet. */
export function fitted(extent: Extent, widthPx: number, heightPx: number, marginPx = 44): PlanView {
  const w = extent.maxX - extent.minX
  const h = extent.maxY - extent.minY
  const pxPerM = Math.max(
    Math.min((widthPx - 2 * (marginPx + WALL_PX)) / w, (heightPx - 2 * (marginPx * 0.72 + WALL_PX)) / h),
    20,
  )
  const left = (widthPx - w * pxPerM) / 2 - extent.minX * pxPerM
  const bottom = (heightPx + h * pxPerM) / 2 + extent.minY * pxPerM
  return { originPx: [left, bottom], pxPerM }
}

export type Wall = { name: string; from: PointM; to: PointM; outward: PointM }

/** Walls along the plan's edges; the plan runs anticlockwise, so outward lies to the right of each edge. */
export function wallsOf(document: Pick<RoomDoc, 'shape'>): Wall[] {
  const plan = document.shape.plan
  return plan.map((from, i) => {
    const to = plan[(i + 1) % plan.length]!
    const length = Math.hypot(to[0] - from[0], to[1] - from[1])
    return {
      name: `wall-${i + 1}`,
      from,
      to,
      outward: [(to[1] - from[1]) / length, -(to[0] - from[0]) / length],
    }
  })
}

/** A point `along` metres from a wall's first corner and `inside` metres into the room. */
export function onWall(wall: Wall, along: number, inside = 0): PointM {
  const length = Math.hypot(wall.to[0] - wall.from[0], wall.to[1] - wall.from[1])
  const t = along / length
  return [
    wall.from[0] + (wall.to[0] - wall.from[0]) * t - wall.outward[0] * inside,
    wall.from[1] + (wall.to[1] - wall.from[1]) * t - wall.outward[1] * inside,
  ]
}

export const clamp = (value: number, low: number, high: number) => Math.min(Math.max(value, low), high)
export const snap = (value: number, step: number) => Math.round(value / step) * step
export const degrees = (radians: number) => (radians * 180) / Math.PI
export const radians = (deg: number) => (deg * Math.PI) / 180
export const turned = (deg: number) => ((deg % 360) + 360) % 360

export function overlap(a: RectPx, b: RectPx): number {
  const w = Math.min(a.x + a.w, b.x + b.w) - Math.max(a.x, b.x)
  const h = Math.min(a.y + a.h, b.y + b.h) - Math.max(a.y, b.y)
  return w > 0 && h > 0 ? w * h : 0
}
