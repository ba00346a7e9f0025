import { useThree } from '@react-three/fiber'
import { useEffect, useRef } from 'react'
import * as THREE from 'three'
import { useDesk } from '../../rooms/use-desk'
import { unpacked } from '../swell'
import { useSwell } from '../use-swell'
import { useColours } from './colours'

/** The swell at microphone height as discs floating in the room. */
export default function SwellDiscs() {
  const { mode: painted } = useDesk()
  const map = useSwell('plan')
  const colour = useColours().boom
  const fHz = painted?.f_hz ?? 0
  const { invalidate } = useThree()
  const mesh = useRef<THREE.InstancedMesh>(null)
  const count = map ? map.nx * map.ny : 0
  useEffect(() => {
    if (!map || !mesh.current) return
    const bytes = unpacked(map)
    const mode = map.f_hz.reduce((best, f, i) => (Math.abs(f - fHz) < Math.abs(map.f_hz[best]! - fHz) ? i : best), 0)
    const size = Math.min(...map.step_m) * 0.5
    const matrix = new THREE.Matrix4()
    for (let j = 0; j < map.ny; j += 1)
      for (let i = 0; i < map.nx; i += 1) {
        const value = bytes[mode * count + j * map.nx + i]!
        const r = value === -128 ? 0 : Math.sqrt(Math.abs(value) / 127) * size
        matrix.makeScale(r, r, r)
        matrix.setPosition(map.start_m[0] + i * map.step_m[0], map.start_m[1] + j * map.step_m[1], map.height_m)
        mesh.current.setMatrixAt(j * map.nx + i, matrix)
      }
    mesh.current.instanceMatrix.needsUpdate = true
    invalidate()
  }, [map, fHz, count, invalidate])
  if (!count || !painted) return null
  return (
    <instancedMesh ref={mesh} args={[undefined, undefined, count]} frustumCulled={false}>
      <circleGeometry args={[1, 18]} />
      <meshBasicMaterial color={colour} transparent opacity={0.6} side={THREE.DoubleSide} />
    </instancedMesh>
  )
}
