import { lazy } from 'react'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { PathLines } from '../path-lines'
import { useSoften } from '../use-soften'
import type { Layer, PlanProps, SectionProps } from './layer'

function Plan({ view, obstacles, page }: PlanProps) {
  const { active } = useRoom()
  const { active: forecast } = usePredicted()
  const { soften } = useSoften()
  if (!forecast) return null
  const [performer, mic] = [active.performer.at, active.microphone.at]
  return (
    <PathLines
      paths={forecast.paths}
      performer={[performer[0], performer[1]]}
      mic={[mic[0], mic[1]]}
      view={view}
      obstacles={obstacles}
      page={page}
      onHit={soften}
    />
  )
}

const MOST = 6
const QUIETEST_DB = -34

function Section({ along, px }: SectionProps) {
  const { active } = useRoom()
  const { active: forecast } = usePredicted()
  const flat = ([x, y, z]: readonly [number, number, number]) => px([along === 'x' ? x : y, z])
  const shown = (forecast?.paths ?? []).filter((p) => p.order === 1 && p.level_db > QUIETEST_DB).slice(0, MOST)
  return shown.map((p, i) => {
    const [x, y] = flat(p.points[0]!)
    const way = [active.performer.at, ...p.points, active.microphone.at].map((q) => flat(q).join(' '))
    return (
      <g key={i} stroke="var(--bounce)" fill="none">
        <path
          d={`M${way.join('L')}`}
          strokeOpacity={0.7}
          strokeWidth={0.7 + 2.6 * Math.max((p.level_db - QUIETEST_DB) / 22, 0)}
        />
        <circle cx={x} cy={y} r={4.5} fill="var(--card)" strokeWidth={2} />
      </g>
    )
  })
}

export const paths: Layer = {
  key: 'paths',
  name: 'Paths',
  says: 'How your voice reaches the mic: weight is loudness.',
  Plan,
  Section,
  Solid: lazy(() => import('../solid/paths')),
}
