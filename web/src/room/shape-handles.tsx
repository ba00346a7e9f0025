import { useRef } from 'react'
import type { RoomDoc } from '../api/client'
import { useRoom } from '../state/room'
import { lengthText, useUnits } from '../state/units'
import { pieceMayStand } from './floor'
import type { FurnishingKinds } from './furniture'
import { type PlanView, toM, toPx, WALL_PX, wallsOf } from './geometry'
import { Grip } from './grip'
import { cornerMoved, cornerRemoved, footprintOf, type Plan, planTrouble, reshaped, wallMoved } from './plan-shape'

type Props = { view: PlanView; chosen: number | null; onChoose: (wall: number | null) => void }

const HOLD_PX = 40

/** Corners and walls of the plan to drag; each wall with its number and length. Only plans that can stand are shown. */
export function ShapeHandles({ view, chosen, onChoose }: Props) {
  const { document, change, preview } = useRoom()
  const units = useUnits()
  const start = useRef<RoomDoc | null>(null)
  const good = useRef<Plan | null>(null)
  const plan = document.shape.plan as Plan
  const metres = (px: readonly [number, number]) => toM(px, view)
  const drag = (label: string, make: (from: Plan) => Plan, going: boolean) => {
    start.current ??= document
    const next = make(start.current.shape.plan as Plan)
    if (planTrouble(next) === null) good.current = next // what cannot stand leaves the last good plan in sight
    if (going) {
      if (good.current) preview(reshaped(start.current, good.current))
      return
    }
    const kept = good.current
    start.current = good.current = null
    if (kept) change(label, (now) => reshaped(now, kept))
  }
  const nudge = (label: string, make: (from: Plan) => Plan) => {
    if (planTrouble(make(plan)) === null) change(label, (now) => reshaped(now, make(now.shape.plan as Plan)))
  }
  return (
    <g>
      {wallsOf(document).map((wall, i) => {
        const [a, b] = [toPx(wall.from, view), toPx(wall.to, view)]
        const long = Math.hypot(b[0] - a[0], b[1] - a[1])
        const lengthM = Math.hypot(wall.to[0] - wall.from[0], wall.to[1] - wall.from[1])
        const out = [wall.outward[0], -wall.outward[1]] as const
        const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as const
        const at = [middle[0] + out[0] * (WALL_PX + 15), middle[1] + out[1] * (WALL_PX + 15)] as const
        const turn = (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI
        const upright = turn > 90 || turn <= -90 ? turn + 180 : turn
        const inward = (by: readonly [number, number]) => -(by[0] * wall.outward[0] + by[1] * wall.outward[1])
        return (
          <Grip
            key={wall.name}
            label={`Wall ${i + 1} ${lengthText(lengthM, units)}: drag it, or move it with the arrow keys (1 cm, with Shift 10 cm)`}
            toM={metres}
            cursor={Math.abs(out[0]) > 0.7 ? 'ew-resize' : 'ns-resize'}
            onFocus={() => onChoose(i)}
            onDrag={(by, going) =>
              drag(`wall ${i + 1}`, (from) => wallMoved(from, i, Math.round(inward(by) * 100) / 100), going)
            }
            onNudge={(by) => nudge(`wall ${i + 1}`, (from) => wallMoved(from, i, inward(by)))}
          >
            <path
              d={`M${a.join(' ')}L${b.join(' ')}`}
              stroke={chosen === i ? 'var(--change)' : 'transparent'}
              strokeWidth={chosen === i ? 3 : 16}
              transform={`translate(${out[0] * WALL_PX * 0.5} ${out[1] * WALL_PX * 0.5})`}
            />
            {/* from the wall's inner face to its label, all of it can be taken hold of */}
            <path
              d={`M${a.join(' ')}L${b.join(' ')}`}
              stroke="transparent"
              strokeWidth={HOLD_PX}
              transform={`translate(${out[0] * (HOLD_PX / 2 - 3)} ${out[1] * (HOLD_PX / 2 - 3)})`}
            />
            <g
              transform={`translate(${at[0]} ${at[1]}) rotate(${long > 58 ? upright : 0})`}
              fontSize={12.5}
              fontWeight={600}
              textAnchor="middle"
            >
              {long > 58 ? (
                <text
                  y={4}
                  style={{ fill: chosen === i ? 'var(--change)' : 'var(--ink-2)' }}
                  stroke="var(--paper)"
                  strokeWidth={4}
                  paintOrder="stroke"
                >
                  <tspan style={{ fill: 'var(--change)' }}>{i + 1}</tspan> {lengthText(lengthM, units)}
                </text>
              ) : (
                <text y={4} style={{ fill: 'var(--change)' }} stroke="var(--paper)" strokeWidth={4} paintOrder="stroke">
                  {i + 1}
                </text>
              )}
            </g>
          </Grip>
        )
      })}
      {plan.map((corner, i) => {
        const [x, y] = toPx(corner, view)
        return (
          <Grip
            key={i}
            label={`Corner ${i + 1}: drag it, move it with the arrow keys, or take it out with Delete`}
            toM={metres}
            cursor="move"
            onDrag={(by, going) =>
              drag(`corner ${i + 1}`, (from) => cornerMoved(from, i, [from[i]![0] + by[0], from[i]![1] + by[1]]), going)
            }
            onNudge={(by) =>
              nudge(`corner ${i + 1}`, (from) => cornerMoved(from, i, [from[i]![0] + by[0], from[i]![1] + by[1]], 0))
            }
            onKey={(key) => {
              if ((key !== 'Delete' && key !== 'Backspace') || plan.length < 4) return false
              if (planTrouble(plan.filter((_, k) => k !== i)) === null)
                change('take out a corner', (now) => cornerRemoved(now, i))
              return true
            }}
          >
            <circle cx={x} cy={y} r={13} fill="transparent" />
            <rect
              x={x - 5}
              y={y - 5}
              width={10}
              height={10}
              rx={2}
              fill="var(--card)"
              stroke="var(--change)"
              strokeWidth={2}
            />
          </Grip>
        )
      })}
    </g>
  )
}

/** Furniture to drag about on the plan, turned by [ and ]; it stops at walls. */
export function FurnitureHandles({ view, names }: { view: PlanView; names: FurnishingKinds }) {
  const { document, change, preview } = useRoom()
  const start = useRef<RoomDoc | null>(null)
  const last = useRef<RoomDoc | null>(null)
  const fits = (piece: RoomDoc['furnishings'][number]) => pieceMayStand(document, names, piece)
  const placed = (from: RoomDoc, i: number, part: Partial<RoomDoc['furnishings'][number]>) => ({
    ...from,
    furnishings: from.furnishings.map((f, k) => (k === i ? { ...f, ...part } : f)),
  })
  return (
    <g>
      {document.furnishings.map((piece, i) => {
        const name = names[piece.kind]?.name ?? piece.kind
        const shape = footprintOf(piece).map((p) => toPx(p, view))
        const moved = (from: RoomDoc, by: readonly [number, number]) => {
          const was = from.furnishings[i]!
          const cm = (v: number) => Math.round(v * 100) / 100
          return placed(from, i, { at: [cm(was.at[0] + by[0]), cm(was.at[1] + by[1])] })
        }
        return (
          <Grip
            key={i}
            label={`${name}: drag it, move it with the arrow keys, turn it with [ and ]`}
            toM={(px) => toM(px, view)}
            onDrag={(by, going) => {
              start.current ??= document
              const next = moved(start.current, by)
              if (fits(next.furnishings[i]!)) last.current = next
              if (going) {
                if (last.current) preview(last.current)
                return
              }
              const at = last.current?.furnishings[i]?.at
              start.current = last.current = null
              if (at) change(`move the ${name}`, (now) => placed(now, i, { at }))
            }}
            onNudge={(by) => {
              const next = moved(document, by)
              if (fits(next.furnishings[i]!)) change(`move the ${name}`, (now) => moved(now, by))
            }}
            onKey={(key) => {
              if (key !== '[' && key !== ']') return false
              const turn_deg = (piece.turn_deg + (key === '[' ? 15 : 345)) % 360
              if (fits({ ...piece, turn_deg })) change(`turn the ${name}`, (now) => placed(now, i, { turn_deg }))
              return true
            }}
          >
            <path d={`M${shape.map((p) => p.join(' ')).join('L')}Z`} fill="transparent" />
          </Grip>
        )
      })}
    </g>
  )
}
