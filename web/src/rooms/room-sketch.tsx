import type { Schemas } from '../api/client'
import { Furniture } from '../room/furniture'
import { extentOf, fitted } from '../room/geometry'
import { Hatches } from '../room/hatches'
import { Walls } from '../room/walls'
import { useCatalogue } from '../state/catalogue'

/** A room's plan in small, for lists. */
export function RoomSketch({ sketch, w, h }: { sketch: Schemas['Sketch']; w: number; h: number }) {
  const catalogue = useCatalogue()
  const kinds = Object.fromEntries(catalogue.furnishings.map((k) => [k.key, k]))
  const hatches = Object.fromEntries(catalogue.materials.map((m) => [m.key, m.hatch]))
  const view = fitted(extentOf(sketch), w, h, 8)
  return (
    <svg viewBox={`0 0 ${w} ${h}`} className="w-full" aria-hidden>
      <Hatches />
      <Walls document={sketch} view={view} hatchOf={(key) => hatches[key ?? ''] ?? 'solid'} />
      <Furniture document={{ ...sketch, arrangements: [] }} view={view} kinds={kinds} labels={false} />
    </svg>
  )
}
