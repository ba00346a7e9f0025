import type { RoomDoc, Treatment } from '../api/client'
import { wallsOf } from './geometry'

/** A panel as most people build it: 100 mm of wool, 50 mm off the wall. */
export const PANEL = {
  kind: 'porous' as const,
  thickness_m: 0.1,
  flow_resistivity: 12000,
  gap_m: 0.05,
  facing_resistance: 0,
  facing_mass: 0,
  mass_kg_m2: 5,
  open_share: 0.05,
  opening_m: 0.006,
  board_m: 0.012,
  fullness: 2,
  resistance: 400,
}

/** Something soft for a spot on a surface: a panel, a rug, over a window a curtain; null where nothing can hang. */
export function treatmentAt(
  document: RoomDoc,
  surface: string,
  at: readonly [number, number, number],
): Treatment | null {
  const cm = (v: number) => Math.round(v * 100) / 100
  if (surface === 'floor')
    return {
      kind: 'rug',
      surface,
      label: 'A thick rug',
      material: 'carpet-cotton',
      x_m: cm(at[0] - 0.7),
      z_m: cm(at[1] - 0.5),
      width_m: 1.4,
      height_m: 1,
    }
  const wall = wallsOf(document).find((w) => w.name === surface)
  if (!wall)
    return surface.startsWith('ceiling')
      ? {
          kind: 'panel',
          surface,
          label: 'A panel overhead',
          absorber: PANEL,
          x_m: cm(at[0] - 0.6),
          z_m: cm(at[1] - 0.3),
          width_m: 1.2,
          height_m: 0.6,
        }
      : null
  const long = Math.hypot(wall.to[0] - wall.from[0], wall.to[1] - wall.from[1])
  const along =
    ((at[0] - wall.from[0]) * (wall.to[0] - wall.from[0]) + (at[1] - wall.from[1]) * (wall.to[1] - wall.from[1])) / long
  const width_m = Math.min(0.6, long)
  const z_m = cm(Math.max(at[2] - 0.6, 0))
  const x_m = cm(Math.min(Math.max(along - width_m / 2, 0), long - width_m))
  const over = document.openings.some(
    (o) =>
      o.surface === surface &&
      x_m < o.x_m + o.width_m &&
      x_m + width_m > o.x_m &&
      z_m < o.z_m + o.height_m &&
      z_m + 1.2 > o.z_m,
  )
  // a window or door must open: there it is a curtain
  return over
    ? {
        kind: 'curtain',
        surface,
        label: 'A heavy curtain',
        material: 'curtain-cotton',
        x_m,
        z_m,
        width_m: cm(Math.min(1.2, long - x_m)),
        height_m: 1.2,
      }
    : { kind: 'panel', surface, label: 'A panel', absorber: PANEL, x_m, z_m, width_m, height_m: 1.2 }
}
