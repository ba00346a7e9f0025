import { Canvas, useFrame, useThree } from '@react-three/fiber'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useMemo, useRef, useState } from 'react'
import * as THREE from 'three'
import type { Arrangement, Forecast, RoomDoc } from '../api/client'
import { roomQueries } from '../api/queries'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import type { Layer } from './drawing'
import { extentOf } from './geometry'
import { Hatches } from './hatches'
import { footprintOf, highestOf } from './plan-shape'
import { unpacked } from './swell'

type Face = Forecast['shape']['faces'][number]
type Props = { layer: Layer; mode: Forecast['modes'][number] | null; swellHeightM?: number | null }

const TOKENS = [
  'floor',
  'wall',
  'card',
  'felt',
  'ink-2',
  'line-strong',
  'bounce',
  'boom',
  'change',
  'mic',
  'paper',
] as const
type Colours = Record<(typeof TOKENS)[number], string>

/** The drawing's own colours, read from the page so that both themes hold. */
function useColours(): Colours {
  const read = () =>
    Object.fromEntries(
      TOKENS.map((t) => [t, getComputedStyle(document.documentElement).getPropertyValue(`--${t}`).trim()]),
    ) as Colours
  const [colours, setColours] = useState(read)
  useEffect(() => {
    const watcher = new MutationObserver(() => setColours(read()))
    watcher.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] })
    return () => watcher.disconnect()
  }, [])
  return colours
}

/** The room as a model to turn: near walls open like a doll's house. Drag, or use the arrow keys; + and - come closer and go. */
export default function SolidView({ layer, mode, swellHeightM = null }: Props) {
  const { document: room, active } = useRoom()
  const { active: forecast } = usePredicted()
  const colours = useColours()
  const [view, setView] = useState({ turn: 0.65, tilt: 0.72, near: 1 })
  const grip = useRef<{ x: number; y: number } | null>(null)
  const turn = (by: Partial<typeof view>) =>
    setView((now) => ({
      turn: now.turn + (by.turn ?? 0),
      tilt: Math.min(Math.max(now.tilt + (by.tilt ?? 0), 0.08), 1.45),
      near: Math.min(Math.max(now.near * (by.near ?? 1), 0.5), 2.2),
    }))
  if (!forecast) return <p className="p-8 text-ink-2">Building the model…</p>
  return (
    <div
      className="absolute inset-0 cursor-grab touch-none"
      role="application"
      tabIndex={0}
      aria-label={`${room.name} as a model. Drag to turn it, or use the arrow keys; plus and minus come closer and go back.`}
      data-testid="solid-view"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId)
        grip.current = { x: e.clientX, y: e.clientY }
      }}
      onPointerMove={(e) => {
        if (!grip.current) return
        turn({ turn: (e.clientX - grip.current.x) * -0.008, tilt: (e.clientY - grip.current.y) * 0.006 })
        grip.current = { x: e.clientX, y: e.clientY }
      }}
      onPointerUp={() => (grip.current = null)}
      onWheel={(e) => turn({ near: e.deltaY > 0 ? 1 / 1.07 : 1.07 })}
      onKeyDown={(e) => {
        const ways: Record<string, Partial<typeof view>> = {
          ArrowLeft: { turn: 0.12 },
          ArrowRight: { turn: -0.12 },
          ArrowUp: { tilt: 0.08 },
          ArrowDown: { tilt: -0.08 },
          '+': { near: 1.1 },
          '-': { near: 1 / 1.1 },
        }
        const way = ways[e.key]
        if (!way) return
        e.preventDefault()
        e.stopPropagation()
        turn(way)
      }}
    >
      <Canvas
        frameloop="demand"
        flat
        camera={{ fov: 32, near: 0.1, far: 200, up: [0, 0, 1] }}
        gl={{ antialias: true, preserveDrawingBuffer: true }}
      >
        <Eye room={room} view={view} />
        <ambientLight intensity={2.55} />
        <directionalLight position={[3, -4, 8]} intensity={0.9} />
        <Model
          room={room}
          active={active}
          forecast={forecast}
          colours={colours}
          layer={layer}
          mode={mode}
          swellHeightM={swellHeightM}
        />
      </Canvas>
      {/* the marks beside it are woven with the drawing's patterns */}
      <svg className="absolute size-0" aria-hidden>
        <Hatches />
      </svg>
      <p className="pointer-events-none absolute bottom-1 left-2 text-[0.8rem] text-ink-2">
        Drag to turn, scroll to come closer.
      </p>
    </div>
  )
}

function Eye({ room, view }: { room: RoomDoc; view: { turn: number; tilt: number; near: number } }) {
  const { camera, size, invalidate } = useThree()
  const e = extentOf(room)
  const high = highestOf(room.shape.ceiling)
  useEffect(() => {
    const centre = new THREE.Vector3((e.minX + e.maxX) / 2, (e.minY + e.maxY) / 2, high * 0.42)
    const radius = Math.hypot(e.maxX - e.minX, e.maxY - e.minY, high) / 2
    const fov = ((camera as THREE.PerspectiveCamera).fov * Math.PI) / 180
    const away =
      (radius / Math.sin(fov / 2) / view.near) * Math.max(1, 1.05 / Math.min(size.width / size.height, 1)) * 0.92
    camera.position.set(
      centre.x - Math.sin(view.turn) * Math.cos(view.tilt) * away,
      centre.y - Math.cos(view.turn) * Math.cos(view.tilt) * away,
      centre.z + Math.sin(view.tilt) * away,
    )
    camera.up.set(0, 0, 1)
    camera.lookAt(centre)
    camera.updateProjectionMatrix()
    invalidate()
  }, [camera, e.maxX, e.maxY, e.minX, e.minY, high, invalidate, size.height, size.width, view])
  return null
}

/** A flat piece of a face as triangles in space. */
function flatGeometry(
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
function facing(made: THREE.BufferGeometry, inward: THREE.Vector3): THREE.BufferGeometry {
  const corner = (k: number) =>
    new THREE.Vector3().fromBufferAttribute(made.getAttribute('position') as THREE.BufferAttribute, made.index!.getX(k))
  const [a, b, c] = [corner(0), corner(1), corner(2)]
  if (b.sub(a).cross(c.sub(a)).dot(inward) < 0) made.index!.array.reverse()
  made.computeVertexNormals()
  return made
}

/** From a face's flat coordinates to space, fixed by three of its corners. */
function spaceOf(face: Face): (p: THREE.Vector2) => THREE.Vector3 {
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

type Patch = { surface: string; x_m: number; z_m: number; width_m: number; height_m: number }
const cornersOf = (p: Patch) =>
  [
    [p.x_m, p.z_m],
    [p.x_m + p.width_m, p.z_m],
    [p.x_m + p.width_m, p.z_m + p.height_m],
    [p.x_m, p.z_m + p.height_m],
  ] as [number, number][]

function Model({
  room,
  active,
  forecast,
  colours,
  layer,
  mode,
  swellHeightM,
}: {
  room: RoomDoc
  active: Arrangement
  forecast: Forecast
  colours: Colours
  layer: Layer
  mode: Props['mode']
  swellHeightM: number | null
}) {
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
    .filter(({ c }) => c.drawn || c.kind !== 'curtain')
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
      {layer === 'paths' ? <Ways active={active} forecast={forecast} colours={colours} /> : null}
      {layer === 'swell' && mode ? (
        <SwellDiscs room={room} active={active} fHz={mode.f_hz} colour={colours.boom} heightM={swellHeightM} />
      ) : null}
      {layer === 'flutter'
        ? forecast.flutter.map((pair) => (
            <Line key={pair.surfaces.join()} points={[...pair.outline, pair.outline[0]!]} colour={colours.bounce} />
          ))
        : null}
    </group>
  )
}

function Wall({ face, colours }: { face: Face; colours: Colours }) {
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
function Opening({ geometry, frame, window, colours }: OpeningProps) {
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

function Line({ points, colour }: { points: readonly (readonly [number, number, number])[]; colour: string }) {
  const line = useMemo(() => {
    const geometry = new THREE.BufferGeometry().setFromPoints(points.map((p) => new THREE.Vector3(...p)))
    return new THREE.Line(geometry, new THREE.LineBasicMaterial({ color: colour }))
  }, [points, colour])
  return <primitive object={line} />
}

function Piece({ piece, colours }: { piece: RoomDoc['furnishings'][number]; colours: Colours }) {
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

/** A post of tape: a cross on the floor and a ball at mouth or capsule height. */
function Mark({ at, colour }: { at: readonly [number, number, number]; colour: string }) {
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

/** Reflections as tubes whose thickness is their level. */
function Ways({ active, forecast, colours }: { active: Arrangement; forecast: Forecast; colours: Colours }) {
  const shown = forecast.paths.filter((p) => p.order === 1 && p.level_db > -34)
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

/** The swell at microphone height as discs floating in the room. */
function SwellDiscs({
  room,
  active,
  fHz,
  colour,
  heightM,
}: {
  room: RoomDoc
  active: Arrangement
  fHz: number
  colour: string
  heightM: number | null
}) {
  const { data: map } = useQuery(roomQueries.swell(room, active.id, 'plan', heightM, true))
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
  if (!count) return null
  return (
    <instancedMesh ref={mesh} args={[undefined, undefined, count]} frustumCulled={false}>
      <circleGeometry args={[1, 18]} />
      <meshBasicMaterial color={colour} transparent opacity={0.6} side={THREE.DoubleSide} />
    </instancedMesh>
  )
}
