import { useMemo } from 'react'
import * as THREE from 'three'
import type { RoomDoc } from '../../api/client'
import { footprintOf } from '../plan-shape'
import type { Colours } from './colours'
import { Line } from './line'

/** A piece of furniture as boxes, with what tells it apart. */
export function Piece({ piece, colours }: { piece: RoomDoc['furnishings'][number]; colours: Colours }) {
  const [l, d, h] = piece.size_m ?? [1, 0.5, 1]
  const thin = piece.kind === 'desk' || piece.kind === 'table'
  const box = useMemo(() => new THREE.BoxGeometry(l, d, thin ? 0.04 : h), [l, d, h, thin])
  const edges = useMemo(() => new THREE.EdgesGeometry(box), [box])
  const z = thin ? h - 0.02 : h / 2
  return (
    <group position={[piece.at[0], piece.at[1], z]} rotation={[0, 0, (piece.turn_deg * Math.PI) / 180]}>
      <mesh geometry={box}>
        <meshLambertMaterial
          color={colours.card}
          polygonOffset
          polygonOffsetFactor={1}
          polygonOffsetUnits={1}
          transparent={piece.kind === 'clothes-rail'}
          opacity={piece.kind === 'clothes-rail' ? 0.5 : 1}
        />
      </mesh>
      <lineSegments geometry={edges}>
        <lineBasicMaterial color={colours['ink-2']} />
      </lineSegments>
      {piece.kind === 'day-bed' || piece.kind === 'bed' ? <Pillow l={l} d={d} h={h} colours={colours} /> : null}
      {thin ? <Legs piece={piece} colours={colours} /> : null}
      {piece.kind === 'bookcase' || piece.kind === 'shelf' ? <Shelves l={l} d={d} h={h} colours={colours} /> : null}
      {piece.kind === 'wardrobe' ? (
        <Line
          points={[
            [0, d / 2 + 0.005, -h / 2],
            [0, d / 2 + 0.005, h / 2],
          ]}
          colour={colours['ink-2']}
        />
      ) : null}
      {piece.kind === 'sofa' || piece.kind === 'armchair' ? (
        <mesh position={[0, -d / 2 + 0.1, h * 0.28]}>
          <boxGeometry args={[l, 0.2, h * 0.5]} />
          <meshLambertMaterial color={colours.floor} />
        </mesh>
      ) : null}
    </group>
  )
}

const Pillow = ({ l, d, h, colours }: { l: number; d: number; h: number; colours: Colours }) => (
  <mesh position={[l / 2 - 0.28, 0, h / 2 + 0.05]}>
    <boxGeometry args={[0.34, d * 0.72, 0.1]} />
    <meshLambertMaterial color={colours.floor} />
  </mesh>
)

function Legs({ piece, colours }: { piece: RoomDoc['furnishings'][number]; colours: Colours }) {
  const [l, d, h] = piece.size_m ?? [1.2, 0.6, 0.74]
  const feet = footprintOf({ at: [0, 0], size_m: [l - 0.08, d - 0.08, h], turn_deg: 0 })
  return feet.map(([x, y], i) => (
    <Line
      key={i}
      points={[
        [x, y, 0],
        [x, y, -h + 0.02],
      ]}
      colour={colours['ink-2']}
    />
  ))
}

const Shelves = ({ l, d, h, colours }: { l: number; d: number; h: number; colours: Colours }) =>
  [1, 2, 3, 4].map((k) => (
    <Line
      key={k}
      points={[
        [-l / 2, d / 2 + 0.004, -h / 2 + (k * h) / 5],
        [l / 2, d / 2 + 0.004, -h / 2 + (k * h) / 5],
      ]}
      colour={colours['ink-2']}
    />
  ))
