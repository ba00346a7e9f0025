import { useQuery } from '@tanstack/react-query'
import { roomsChanged } from '../api/cache'
import { useState } from 'react'
import { roomQueries } from '../api/queries'
import { useKinds } from '../state/catalogue'
import { RoomProvider } from '../state/room'
import { MeasuringPlace } from '../listen/measuring-place'
import { ForecastProvider } from '../state/forecast'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'

const CHECKS = ['clap', 'tone', 'spoken']

/** The three-minute check of one place: clap, silence, a spoken line, in any order; each can be left out. */
export function CheckPlace({ roomId, name, onClose }: { roomId: string; name: string; onClose: () => void }) {
  const room = useQuery(roomQueries.room(roomId))
  const { data: readings = [] } = useQuery(roomQueries.readings(roomId))
  const { kindOf } = useKinds()
  const checks = CHECKS.map((key) => {
    const kind = kindOf(key)
    return { kind, taken: readings.some((r) => r.kind === key || kind.also.includes(r.kind)) }
  })
  const [chosen, setChosen] = useState<string | null>(null)
  const close = () => {
    void roomsChanged()
    onClose()
  }
  return (
    <Sheet open onClose={close} title={`Three minutes in: ${name}`} wide>
      <ol className="mb-3 grid grid-cols-3 gap-2 max-sm:grid-cols-1">
        {checks.map(({ kind, taken }) => (
          <li key={kind.key}>
            <button
              type="button"
              aria-pressed={chosen === kind.key}
              onClick={() => setChosen(kind.key)}
              className={`w-full rounded-xl border px-3 py-2 text-left ${chosen === kind.key ? 'border-change bg-change-soft' : 'border-line bg-paper'}`}
            >
              <span className="font-semibold">
                {taken ? '✓ ' : ''}
                {kind.name}
              </span>
              <span className="block text-fine text-ink-2">{taken ? 'taken' : kind.tells}</span>
            </button>
          </li>
        ))}
      </ol>
      {room.data && chosen ? (
        <RoomProvider key={roomId} room={room.data}>
          <ForecastProvider>
            <MeasuringPlace
              key={chosen}
              kind={kindOf(chosen)}
              backTo={null}
              onTaken={() => void roomsChanged()}
              onClose={() => setChosen(null)}
            />
          </ForecastProvider>
        </RoomProvider>
      ) : null}
      {checks.every((c) => c.taken) ? (
        <p className="text-note">All three are taken. Its beads are filled where they settle a mark.</p>
      ) : null}
      <div className="mt-4 flex justify-end">
        <Button onClick={close}>Back to the places</Button>
      </div>
    </Sheet>
  )
}
