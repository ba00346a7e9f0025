import type { Edit } from '../api/client'
import { useCatalogue } from '../state/catalogue'
import { useRoom } from '../state/room'
import type { Extent, PlanView, PointM } from './geometry'
import type { Placement } from './movable'
import { TapeMark } from './tape-mark'

/** A second microphone, monitors, the chair that listens to them and the laptop, where there are any. */
export function Ears({
  view,
  extent,
  allowed,
}: {
  view: PlanView
  extent: Extent
  allowed: (heightM: number) => (p: PointM) => boolean
}) {
  const { active, edit, drag } = useRoom()
  const { patterns } = useCatalogue()
  const moves = (who: string, heightM: number) => {
    const place = ({ at, facesDeg }: Placement): Edit => ({
      do: 'place',
      who,
      at: [at[0], at[1], heightM],
      turn_deg: facesDeg,
      tilt_deg: 0,
    })
    return { onMove: (to: Placement) => drag(place(to)), onMoveEnd: (to: Placement) => edit(place(to)) }
  }
  const placement = (m: { at: readonly number[]; faces_deg: number }): Placement => ({
    at: [m.at[0]!, m.at[1]!],
    facesDeg: m.faces_deg,
  })
  return (
    <g>
      {active.monitors.map((m, i) => (
        <TapeMark
          key={i}
          label={active.monitors.length === 2 ? `monitor ${'LR'[i]}` : 'monitor'}
          view={view}
          within={extent}
          allowed={allowed(m.at[2])}
          placement={placement(m)}
          look={{ colour: 'var(--boom)', shape: 'tee' }}
          labelAt="below"
          {...moves(`monitor-${i + 1}`, m.at[2])}
        />
      ))}
      {active.second_microphone ? (
        <TapeMark
          label="mic 2"
          view={view}
          within={extent}
          allowed={allowed(active.second_microphone.at[2])}
          placement={{
            at: [active.second_microphone.at[0], active.second_microphone.at[1]],
            facesDeg: active.second_microphone.aims_deg,
          }}
          look={{
            colour: 'var(--mic)',
            shape: 'upright',
            pattern: patterns.find((p) => p.key === active.second_microphone!.pattern)?.pressure ?? 0.5,
          }}
          labelAt="above"
          {...moves('second-microphone', active.second_microphone.at[2])}
        />
      ) : null}
      {active.listener ? (
        <TapeMark
          label="chair"
          view={view}
          within={extent}
          allowed={allowed(active.listener.at[2])}
          placement={placement(active.listener)}
          look={{ colour: 'var(--touch)', shape: 'chair' }}
          labelAt="above"
          {...moves('chair', active.listener.at[2])}
        />
      ) : null}
      {active.laptop ? (
        <TapeMark
          label="laptop"
          view={view}
          within={extent}
          allowed={allowed(active.laptop.at[2])}
          placement={placement(active.laptop)}
          look={{ colour: 'var(--ink-2)', shape: 'laptop' }}
          labelAt="below"
          {...moves('laptop', active.laptop.at[2])}
        />
      ) : null}
    </g>
  )
}
