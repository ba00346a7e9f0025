import { Line } from './line'

/** A post of tape: a cross on the floor and a ball at mouth or capsule height. */
export function Mark({ at, colour }: { at: readonly [number, number, number]; colour: string }) {
  return (
    <group>
      <mesh position={[...at]}>
        <sphereGeometry args={[0.055, 20, 14]} />
        <meshBasicMaterial color={colour} />
      </mesh>
      <Line
        points={[
          [at[0], at[1], 0],
          [at[0], at[1], at[2]],
        ]}
        colour={colour}
      />
      <Line
        points={[
          [at[0] - 0.1, at[1] - 0.1, 0.006],
          [at[0] + 0.1, at[1] + 0.1, 0.006],
        ]}
        colour={colour}
      />
      <Line
        points={[
          [at[0] - 0.1, at[1] + 0.1, 0.006],
          [at[0] + 0.1, at[1] - 0.1, 0.006],
        ]}
        colour={colour}
      />
    </group>
  )
}
