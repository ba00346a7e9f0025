import { Canvas, useThree } from '@react-three/fiber'
import { useEffect, useRef, useState } from 'react'
import * as THREE from 'three'
import type { RoomDoc } from '../../api/client'
import { useDesk } from '../../rooms/use-desk'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { extentOf } from '../geometry'
import { Hatches } from '../hatches'
import { highestOf } from '../plan-shape'
import { useColours } from './colours'
import { Model } from './model'

/** The room as a model to turn: near walls open like a doll's house. Drag, or use the arrow keys; + and - come closer and go. */
export default function SolidView() {
  const { layer } = useDesk()
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
  if (!forecast) return <p className="p-8 text-ink-2">Building the model</p>
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
        <Model room={room} active={active} forecast={forecast} colours={colours} Layer={layer.Solid} />
      </Canvas>
      {/* the marks beside it are woven with the drawing's patterns */}
      <svg className="absolute size-0" aria-hidden>
        <Hatches />
      </svg>
      <p className="pointer-events-none absolute bottom-1 left-2 text-fine text-ink-2">
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
