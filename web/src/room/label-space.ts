import type { RoomDoc } from '../api/client'
import {
  isThere,
  onWall,
  type PlanView,
  type PointM,
  type PointPx,
  type RectPx,
  toPx,
  WALL_PX,
  wallsOf,
} from './geometry'
import { alongLine, wallBoxes } from './labels'

const SWING = 10
const FOLD_PX = 12

type Drawn = Pick<RoomDoc, 'shape' | 'openings'> & { covers?: RoomDoc['covers'] }

/** What is drawn of the room itself and labels keep off: walls, doors with their swing, cloth before walls. */
export function roomBoxes(document: Drawn, view: PlanView): RectPx[] {
  const outline = document.shape.plan.map((p) => toPx(p as PointM, view))
  const walls = wallsOf(document)
  const on = (name: string) => walls.find((wall) => wall.name === name)
  const doors = document.openings.flatMap((o) => {
    const wall = o.kind === 'door' ? on(o.surface) : undefined
    if (!wall) return []
    const [pivot, free] = o.hinge === 'left' ? [o.x_m, o.x_m + o.width_m] : [o.x_m + o.width_m, o.x_m]
    const swing = Array.from({ length: SWING + 1 }, (_, i): PointPx => {
      const turn = (i / SWING) * (Math.PI / 2)
      const along = pivot + (free - pivot) * Math.cos(turn)
      return toPx(onWall(wall, along, o.width_m * Math.sin(turn)), view)
    })
    return alongLine([toPx(onWall(wall, pivot), view), swing.at(-1)!, ...[...swing].reverse()])
  })
  const cloth = (document.covers ?? []).filter(isThere).flatMap((c) => {
    const wall = on(c.surface)
    if (!wall) return []
    const gap = Math.max(c.gap_m, 0.05)
    const side = c.width_m * 0.14
    const spans: [number, number][] = c.drawn
      ? [[c.x_m, c.x_m + c.width_m]]
      : [
          [c.x_m, c.x_m + side],
          [c.x_m + c.width_m - side, c.x_m + c.width_m],
        ]
    return spans.flatMap(([a, b]) =>
      alongLine([toPx(onWall(wall, a, gap), view), toPx(onWall(wall, b, gap), view)], FOLD_PX),
    )
  })
  return [...wallBoxes(outline, WALL_PX), ...doors, ...cloth]
}
