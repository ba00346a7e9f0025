import { useMemo } from 'react'
import * as THREE from 'three'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { useColours } from './colours'

/** Reflections as tubes whose thickness is their level. */
export default function Paths() {
  const { active } = useRoom()
  const { active: forecast } = usePredicted()
  const colours = useColours()
  const shown = (forecast?.paths ?? []).filter((p) => p.order === 1 && p.level_db > -34)
  const [a, b] = [active.performer.at, active.microphone.at]
  return (
    <group>
      <Tube points={[a, b]} radius={0.012} colour={colours['ink-2']} />
      {shown.map((p, i) => (
        <Tube
          key={i}
          points={[a, ...p.points, b]}
          radius={0.004 + 0.016 * Math.max((p.level_db + 34) / 22, 0)}
          colour={colours.bounce}
        />
      ))}
      {shown.map((p, i) => (
        <mesh key={i} position={[...p.points[0]!]}>
          <sphereGeometry args={[0.035, 14, 10]} />
          <meshBasicMaterial color={colours.bounce} />
        </mesh>
      ))}
    </group>
  )
}

function Tube({
  points,
  radius,
  colour,
}: {
  points: readonly (readonly [number, number, number])[]
  radius: number
  colour: string
}) {
  const geometry = useMemo(() => {
    const path = new THREE.CurvePath<THREE.Vector3>()
    const at = points.map((p) => new THREE.Vector3(...p))
    for (let i = 1; i < at.length; i += 1) path.add(new THREE.LineCurve3(at[i - 1]!, at[i]!))
    return new THREE.TubeGeometry(path, (at.length - 1) * 12, radius, 6)
  }, [points, radius])
  return (
    <mesh geometry={geometry}>
      <meshBasicMaterial color={colour} transparent opacity={0.85} />
    </mesh>
  )
}
