import { Suspense } from 'react'
import * as THREE from 'three'
import type { Arrangement, Forecast, RoomDoc } from '../../api/client'
import type { Layer } from '../layers/layer'
import type { Colours } from './colours'
import { Piece } from './furniture'
import { facing, flatGeometry, spaceOf } from './geometry'
import { Mark } from './mark'
import { Opening, Wall } from './walls'

type Patch = { surface: string; x_m: number; z_m: number; width_m: number; height_m: number }
const cornersOf = (p: Patch) =>
  [
    [p.x_m, p.z_m],
    [p.x_m + p.width_m, p.z_m],
    [p.x_m + p.width_m, p.z_m + p.height_m],
    [p.x_m, p.z_m + p.height_m],
  ] as [number, number][]

type ModelProps = { room: RoomDoc; active: Arrangement; forecast: Forecast; colours: Colours; Layer: Layer['Solid'] }

/** Walls, what hangs on them and stands before them, the marks, and what lies on the drawing. */
export function Model({ room, active, forecast, colours, Layer }: ModelProps) {
  const faces = forecast.shape.faces
  const by = Object.fromEntries(faces.map((f) => [f.name, f]))
  const hung = (patch: Patch, off: number) => {
    const face = by[patch.surface]
    if (!face) return null
    const space = spaceOf(face)
    const normal = new THREE.Vector3(...face.normal)
    return facing(
      flatGeometry(cornersOf(patch), [], (p) => space(p).addScaledVector(normal, off)),
      normal,
    )
  }
  const frame = (patch: Patch) => {
    const face = by[patch.surface]
    if (!face) return []
    const space = spaceOf(face)
    const normal = new THREE.Vector3(...face.normal)
    const at = ([u, v]: readonly [number, number]) =>
      space(new THREE.Vector2(u, v)).addScaledVector(normal, 0.012).toArray()
    return cornersOf(patch).map(at)
  }
  const slabs = active.treatments.map((t) => ({ t, geometry: hung(t, 0.03 + (t.absorber?.thickness_m ?? 0.08)) }))
  const openings = room.openings.map((o) => ({ o, geometry: hung(o, 0.008) }))
  const cloth = room.covers
    .map((c) => ({ c, geometry: hung(c, c.kind === 'rug' ? 0.01 : c.gap_m) }))
    .filter(({ c }) => c.drawn)
  return (
    <group>
      {faces.map((face) => (
        <Wall key={face.name} face={face} colours={colours} />
      ))}
      {openings.map(
        ({ o, geometry }, i) =>
          geometry && (
            <Opening key={i} geometry={geometry} frame={frame(o)} window={o.kind === 'window'} colours={colours} />
          ),
      )}
      {cloth.map(
        ({ geometry }, i) =>
          geometry && (
            <mesh key={i} geometry={geometry}>
              <meshBasicMaterial color={colours.felt} side={THREE.DoubleSide} transparent opacity={0.45} />
            </mesh>
          ),
      )}
      {slabs.map(
        ({ geometry }, i) =>
          geometry && (
            <mesh key={i} geometry={geometry}>
              <meshBasicMaterial color={colours.felt} side={THREE.DoubleSide} />
            </mesh>
          ),
      )}
      {room.furnishings.map((f, i) => (
        <Piece key={i} piece={f} colours={colours} />
      ))}
      <Mark at={active.performer.at} colour={colours.change} />
      <Mark at={active.microphone.at} colour={colours.mic} />
      {Layer ? (
        <Suspense fallback={null}>
          <Layer />
        </Suspense>
      ) : null}
    </group>
  )
}
