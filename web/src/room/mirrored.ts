import type { Arrangement, RoomDoc, Treatment } from '../api/client'
import { onWall, type PointM, wallsOf } from './geometry'

const NEAR_M = 0.35

/** The line that left and right are told from: chair to monitors, else performer to microphone. */
export function listeningAxis({ listener, monitors, performer, microphone }: Arrangement): {
  at: PointM
  ahead: PointM
} {
  const from = listener && monitors.length ? listener.at : performer.at
  const to =
    listener && monitors.length
      ? ([0, 1] as const).map((i) => monitors.reduce((sum, m) => sum + m.at[i], 0) / monitors.length)
      : microphone.at
  const [dx, dy] = [to[0]! - from[0], to[1]! - from[1]]
  const length = Math.hypot(dx, dy) || 1
  return { at: [from[0], from[1]], ahead: [dx / length, dy / length] }
}

/** A piece on a wall mirrored about the listening axis: on whichever wall lies there; null where none does. */
export function mirrored(
  document: Pick<RoomDoc, 'shape'>,
  arrangement: Arrangement,
  piece: Treatment,
): Treatment | null {
  const walls = wallsOf(document)
  const wall = walls.find((w) => w.name === piece.surface)
  if (!wall) return null
  const { at, ahead } = listeningAxis(arrangement)
  const other = ([x, y]: PointM): PointM => {
    const along = (x - at[0]) * ahead[0] + (y - at[1]) * ahead[1]
    const [fx, fy] = [at[0] + along * ahead[0], at[1] + along * ahead[1]]
    return [2 * fx - x, 2 * fy - y]
  }
  const middle = other(onWall(wall, piece.x_m + piece.width_m / 2))
  const found = walls
    .map((w) => {
      const length = Math.hypot(w.to[0] - w.from[0], w.to[1] - w.from[1])
      const [ux, uy] = [(w.to[0] - w.from[0]) / length, (w.to[1] - w.from[1]) / length]
      const along = (middle[0] - w.from[0]) * ux + (middle[1] - w.from[1]) * uy
      const off = Math.abs((middle[0] - w.from[0]) * uy - (middle[1] - w.from[1]) * ux)
      return { w, length, along, off }
    })
    .filter(({ length, along, off }) => off < NEAR_M && along > 0 && along < length && length >= piece.width_m)
    .sort((a, b) => a.off - b.off)[0]
  if (!found) return null
  const x_m = Math.min(Math.max(found.along - piece.width_m / 2, 0), found.length - piece.width_m)
  const same = found.w.name === piece.surface && Math.abs(x_m - piece.x_m) < 0.05
  return same ? null : { ...piece, surface: found.w.name, x_m: Math.round(x_m * 1000) / 1000 }
}
