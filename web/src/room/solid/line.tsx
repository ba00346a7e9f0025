import { useMemo } from 'react'
import * as THREE from 'three'

/** A thin line in space. */
export function Line({ points, colour }: { points: readonly (readonly [number, number, number])[]; colour: string }) {
  const line = useMemo(() => {
    const geometry = new THREE.BufferGeometry().setFromPoints(points.map((p) => new THREE.Vector3(...p)))
    return new THREE.Line(geometry, new THREE.LineBasicMaterial({ color: colour }))
  }, [points, colour])
  return <primitive object={line} />
}
