import { useFrame, useThree } from '@react-three/fiber'
import { useMemo, useRef } from 'react'
import * as THREE from 'three'
import type { Colours } from './colours'
import { type Face, facing, flatGeometry, spaceOf } from './geometry'
import { Line } from './line'

/** A face of the room, seen from inside only. */
export function Wall({ face, colours }: { face: Face; colours: Colours }) {
  const geometry = useMemo(() => {
    const space = spaceOf(face)
    const made = flatGeometry(face.outline, face.holes, space)
    return facing(made, new THREE.Vector3(...face.normal))
  }, [face])
  return (
    <group>
      <mesh geometry={geometry}>
        <meshLambertMaterial
          color={face.kind === 'floor' ? colours.floor : face.kind === 'wall' ? colours.wall : colours.card}
          side={THREE.FrontSide}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
        />
      </mesh>
      <Line points={[...face.corners, face.corners[0]!]} colour={colours['ink-2']} />
    </group>
  )
}

type OpeningProps = {
  geometry: THREE.BufferGeometry
  frame: [number, number, number][]
  window: boolean
  colours: Colours
}

/** A window with its glazing bars, a door with its leaf; both vanish with their wall. */
export function Opening({ geometry, frame, window, colours }: OpeningProps) {
  const { camera } = useThree()
  const group = useRef<THREE.Group>(null)
  const normal = useMemo(
    () => new THREE.Vector3().fromBufferAttribute(geometry.getAttribute('normal') as THREE.BufferAttribute, 0),
    [geometry],
  )
  useFrame(() => {
    if (group.current && frame[0])
      group.current.visible =
        camera.position
          .clone()
          .sub(new THREE.Vector3(...frame[0]))
          .dot(normal) > 0
  })
  const middle = (i: number, j: number) => frame[i]!.map((v, k) => (v + frame[j]![k]!) / 2) as [number, number, number]
  return (
    <group ref={group}>
      <mesh geometry={geometry}>
        <meshBasicMaterial color={window ? colours.paper : colours.card} transparent opacity={window ? 1 : 0.7} />
      </mesh>
      <Line points={[...frame, frame[0]!]} colour={colours['ink-2']} />
      {window ? <Line points={[middle(0, 1), middle(2, 3)]} colour={colours['ink-2']} /> : null}
      {window ? <Line points={[middle(1, 2), middle(3, 0)]} colour={colours['ink-2']} /> : null}
    </group>
  )
}
