import * as THREE from 'three'
import type { Forecast } from '../../api/client'

export type Face = Forecast['shape']['faces'][number]

/** A flat piece of a face as triangles in space. */
export function flatGeometry(
  outline: readonly (readonly [number, number])[],
  holes: readonly (readonly (readonly [number, number])[])[],
  space: (p: THREE.Vector2) => THREE.Vector3,
) {
  const rim = outline.map(([x, y]) => new THREE.Vector2(x, y))
  const inner = holes.map((ring) => ring.map(([x, y]) => new THREE.Vector2(x, y)))
  const points = [...rim, ...inner.flat()]
  const triangles = THREE.ShapeUtils.triangulateShape(rim, inner)
  const geometry = new THREE.BufferGeometry()
  geometry.setAttribute(
    'position',
    new THREE.Float32BufferAttribute(
      points.flatMap((p) => space(p).toArray()),
      3,
    ),
  )
  geometry.setIndex(triangles.flat())
  geometry.computeVertexNormals()
  return geometry
}

/** The same wound so that its inner side is the front: outer sides vanish and the room opens towards the eye. */
export function facing(made: THREE.BufferGeometry, inward: THREE.Vector3): THREE.BufferGeometry {
  const corner = (k: number) =>
    new THREE.Vector3().fromBufferAttribute(made.getAttribute('position') as THREE.BufferAttribute, made.index!.getX(k))
  const [a, b, c] = [corner(0), corner(1), corner(2)]
  if (b.sub(a).cross(c.sub(a)).dot(inward) < 0) made.index!.array.reverse()
  made.computeVertexNormals()
  return made
}

/** From a face's flat coordinates to space, fixed by three of its corners. */
export function spaceOf(face: Face): (p: THREE.Vector2) => THREE.Vector3 {
  const at = (i: number) => ({ f: new THREE.Vector2(...face.outline[i]!), s: new THREE.Vector3(...face.corners[i]!) })
  const [a, b] = [at(0), at(1)]
  const other = face.outline
    .map((_, i) => at(i))
    .find((c) => Math.abs(b.f.clone().sub(a.f).cross(c.f.clone().sub(a.f))) > 1e-3)!
  const [p, q] = [b.f.clone().sub(a.f), other.f.clone().sub(a.f)]
  const det = p.cross(q)
  return (v) => {
    const d = v.clone().sub(a.f)
    const [s, t] = [d.cross(q) / det, p.cross(d) / det]
    return a.s.clone().addScaledVector(b.s.clone().sub(a.s), s).addScaledVector(other.s.clone().sub(a.s), t)
  }
}
