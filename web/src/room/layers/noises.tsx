import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { type PointPx, toPx, wallsOf } from '../geometry'
import { LabelText } from '../label-text'
import { alongLine, placeLabels } from '../labels'
import type { Layer, PlanProps } from './layer'

const FAINT_DBA = 10

/** Where each noise comes in, on its way to the microphone: weight is its level there. */
function Plan({ view, obstacles, page }: PlanProps) {
  const { document, active } = useRoom()
  const { active: forecast } = usePredicted()
  const levels = forecast?.marks.hush.sources_dba ?? {}
  const mic = toPx([active.microphone.at[0], active.microphone.at[1]], view)
  const walls = wallsOf(document)
  const drawn = document.noises.flatMap((noise) => {
    const level = levels[noise.name]
    if (level === undefined) return []
    const wall = walls.find((w) => w.name === noise.surface)
    const from: PointPx | null = noise.at
      ? toPx([noise.at[0], noise.at[1]], view)
      : wall
        ? toPx([(wall.from[0] + wall.to[0]) / 2, (wall.from[1] + wall.to[1]) / 2], view)
        : null
    return from ? [{ name: noise.name, level, from }] : []
  })
  const labels = placeLabels(
    drawn.map(({ name, level, from }) => ({
      key: name,
      text: `${name} ${level.toFixed(0)}`,
      at: from,
      size: 11.5,
      weight: level,
    })),
    obstacles,
    page,
    drawn.flatMap(({ from }) => alongLine([from, mic])),
  )
  return (
    <g pointerEvents="none">
      {drawn.map(({ name, level, from }) => (
        <g key={name} stroke="var(--hush)">
          <path
            d={`M${from.join(' ')}L${mic.join(' ')}`}
            strokeWidth={1 + Math.max(level - FAINT_DBA, 0) / 6}
            strokeLinecap="round"
            opacity={0.75}
          />
          <circle cx={from[0]} cy={from[1]} r={4.5} fill="var(--card)" strokeWidth={2} />
        </g>
      ))}
      {labels.map((label) => (
        <LabelText key={label.key} label={label} colour="var(--hush)" />
      ))}
    </g>
  )
}

export const noises: Layer = {
  key: 'noises',
  name: 'Noises',
  says: 'Where noise comes in, dB(A) at the microphone.',
  Plan,
}
