import { useRef } from 'react'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import type { RoomDoc } from '../../api/client'
import { type PlanView, type PointM, type PointPx, toM, toPx, wallsOf } from '../geometry'
import { Grip } from '../grip'
import { LabelText } from '../label-text'
import { alongLine, placeLabels } from '../labels'
import { ceilingAt } from '../plan-shape'
import type { Layer, PlanProps } from './layer'

const FAINT_DBA = 10
const KEEP_M = 0.05
type Noise = RoomDoc['noises'][number]
type Point3 = [number, number, number]

const rounded = (value: number) => Math.round(value * 100) / 100

/** Where a noise comes from on the plan: its own spot, the middle of its wall, or of the floor. [m] */
export function spotOf(document: RoomDoc, noise: Noise): PointM | null {
  if (noise.at) return [noise.at[0], noise.at[1]]
  const wall = wallsOf(document).find((w) => w.name === noise.surface)
  if (wall) return [(wall.from[0] + wall.to[0]) / 2, (wall.from[1] + wall.to[1]) / 2]
  const { plan } = document.shape
  const mean = (k: 0 | 1) => plan.reduce((sum, p) => sum + p[k], 0) / plan.length
  return noise.surface ? [mean(0), mean(1)] : null
}

/** The noise moved to a place: along its wall, over its floor or ceiling, or anywhere inside the plan's extent. */
export function movedTo(document: RoomDoc, noise: Noise, [x, y]: PointM): Noise {
  const { plan, ceiling } = document.shape
  const within = (k: 0 | 1, value: number) => {
    const all = plan.map((p) => p[k])
    return rounded(Math.min(Math.max(value, Math.min(...all) + KEEP_M), Math.max(...all) - KEEP_M))
  }
  const wall = noise.kind === 'inside' ? undefined : wallsOf(document).find((w) => w.name === noise.surface)
  if (!wall) {
    const at: Point3 = [within(0, x), within(1, y), noise.at?.[2] ?? 0.8]
    if (noise.kind === 'inside') return { ...noise, at }
    return {
      ...noise,
      at: [at[0], at[1], noise.surface === 'ceiling' ? rounded(ceilingAt(ceiling, [at[0], at[1]])) : 0],
    }
  }
  const [dx, dy] = [wall.to[0] - wall.from[0], wall.to[1] - wall.from[1]]
  const long = Math.hypot(dx, dy)
  const along = Math.min(Math.max(((x - wall.from[0]) * dx + (y - wall.from[1]) * dy) / long, KEEP_M), long - KEEP_M)
  const at: Point3 = [
    rounded(wall.from[0] + (dx * along) / long),
    rounded(wall.from[1] + (dy * along) / long),
    noise.at?.[2] ?? 1.2,
  ]
  return { ...noise, at }
}

/** Where each noise comes in, on its way to the microphone: weight is its level there; each is dragged, or moved by keys. */
function Plan({ view, obstacles, page }: PlanProps) {
  const { document, active, preview, change } = useRoom()
  const { active: forecast } = usePredicted()
  const marks = forecast?.marks.hush
  const levels: Record<string, number> = { ...marks?.sources_dba, ...marks?.passing_dba }
  const mic = toPx([active.microphone.at[0], active.microphone.at[1]], view)
  const drawn = document.noises.flatMap((noise, number) => {
    const spot = spotOf(document, noise)
    return spot ? [{ noise, number, level: levels[noise.name], spot, from: toPx(spot, view) }] : []
  })
  const labels = placeLabels(
    drawn.map(({ noise, level, from }) => ({
      key: noise.name,
      text: level === undefined ? noise.name : `${noise.name} ${level.toFixed(0)}`,
      at: from,
      size: 11.5,
      weight: level ?? 0,
    })),
    obstacles,
    page,
    drawn.flatMap(({ from }) => alongLine([from, mic])),
  )
  const withMoved = (number: number, to: PointM): RoomDoc => ({
    ...document,
    noises: document.noises.map((n, i) => (i === number ? movedTo(document, n, to) : n)),
  })
  return (
    <g>
      <g pointerEvents="none">
        {drawn.map(({ noise, level, from }) =>
          level === undefined ? null : (
            <path
              key={noise.name}
              d={`M${from.join(' ')}L${mic.join(' ')}`}
              stroke="var(--hush)"
              strokeWidth={1 + Math.max(level - FAINT_DBA, 0) / 6}
              strokeDasharray={noise.kind === 'structure' ? '2 5' : undefined}
              strokeLinecap="round"
              opacity={0.75}
            />
          ),
        )}
      </g>
      {drawn.map(({ noise, number, spot, from, level }) => (
        <NoiseGrip
          key={noise.name}
          name={noise.name}
          from={from}
          spot={spot}
          view={view}
          sounds={level !== undefined}
          onDrag={(to, going) => {
            if (going) preview(withMoved(number, to))
            else {
              preview(null)
              change(`move ${noise.name}`, (now) => ({
                ...now,
                noises: now.noises.map((n, i) => (i === number ? movedTo(now, n, to) : n)),
              }))
            }
          }}
        />
      ))}
      <g pointerEvents="none">
        {labels.map((label) => (
          <LabelText key={label.key} label={label} colour="var(--hush)" />
        ))}
      </g>
    </g>
  )
}

type GripProps = {
  name: string
  from: PointPx
  spot: PointM
  view: PlanView
  sounds: boolean
  onDrag: (to: PointM, going: boolean) => void
}

function NoiseGrip({ name, from, spot, view, sounds, onDrag }: GripProps) {
  // while it is dragged its own spot follows: the way is counted from where it began
  const home = useRef(spot)
  const dragging = useRef(false)
  if (!dragging.current) home.current = spot
  return (
    <Grip
      label={`${name}: drag it to where it comes from, or use the arrow keys`}
      toM={(px) => toM(px, view)}
      onDrag={([dx, dy], going) => {
        dragging.current = going
        onDrag([home.current[0] + dx, home.current[1] + dy], going)
      }}
      onNudge={([dx, dy]) => onDrag([spot[0] + dx, spot[1] + dy], false)}
    >
      <circle cx={from[0]} cy={from[1]} r={11} fill="transparent" />
      <circle
        cx={from[0]}
        cy={from[1]}
        r={5}
        fill={sounds ? 'var(--card)' : 'var(--floor)'}
        stroke="var(--hush)"
        strokeWidth={2}
        strokeDasharray={sounds ? undefined : '2 2'}
      />
    </Grip>
  )
}

export const noises: Layer = {
  key: 'noises',
  name: 'Noises',
  says: 'Where noise comes in, dB(A) at the microphone; drag it to where it comes from.',
  Plan,
}
