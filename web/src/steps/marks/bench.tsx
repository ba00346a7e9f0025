import { useState } from 'react'
import { PredictedStage } from '../../bench/predicted-stage'
import { SchoolsBench } from '../../moves/schools'
import { useRoom } from '../../state/room'
import { Segmented } from '../../ui/segmented'
import { AimBench } from './aim'
import { type Asked, DistanceAsked, DistanceBench } from './distance'
import { ListeningBench } from './listening'
import { ReachBench } from './reach'
import { ScreensBench } from './screens'

const LOOKS = [
  { key: 'distance', name: 'Distance' },
  { key: 'aim', name: 'Aim' },
  { key: 'screens', name: 'Screens' },
  { key: 'listening', name: 'Listening' },
  { key: 'reach', name: 'Reach' },
  { key: 'schools', name: 'Two schools' },
  { key: 'room', name: 'Room' },
] as const

/** What a place gives, under the plan: by distance, by aim, at the chair, and what the room does there. */
export function MarksBench() {
  const [look, setLook] = useState<(typeof LOOKS)[number]['key']>('distance')
  const { document, change } = useRoom()
  const [screen, setScreen] = useState<Asked['screen']>('none')
  // which part it is belongs to the brief
  const asked: Asked = { role: document.brief.role, screen }
  const setAsked = (to: Asked) => {
    setScreen(to.screen)
    if (to.role !== asked.role) change('its part', (now) => ({ ...now, brief: { ...now.brief, role: to.role } }))
  }
  return (
    <div>
      <div className="mb-1.5 flex flex-wrap items-center gap-2">
        <Segmented small label="What of this place" value={look} options={LOOKS} onChange={setLook} />
        {look === 'distance' ? <DistanceAsked asked={asked} onChange={setAsked} /> : null}
      </div>
      {look === 'distance' ? <DistanceBench asked={asked} /> : null}
      {look === 'aim' ? <AimBench /> : null}
      {look === 'screens' ? <ScreensBench /> : null}
      {look === 'reach' ? <ReachBench /> : null}
      {look === 'schools' ? <SchoolsBench /> : null}
      {look === 'listening' ? <ListeningBench /> : null}
      {look === 'room' ? <PredictedStage first="low" /> : null}
    </div>
  )
}
