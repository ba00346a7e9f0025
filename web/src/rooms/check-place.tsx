import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { roomQueries } from '../api/queries'
import { RoomProvider } from '../state/room'
import type { Kind } from '../listen/kinds'
import { MeasuringPlace } from '../listen/measuring-place'
import { ForecastProvider } from '../state/forecast'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'

const CHECKS: readonly { kind: Kind; name: string; tells: string }[] = [
  { kind: 'clap', name: 'A clap', tells: 'how the place answers' },
  { kind: 'tone', name: 'Silence', tells: 'what is heard when nobody plays' },
  { kind: 'spoken', name: 'A spoken line', tells: 'how it sounds and how loud you are' },
]

/** The three-minute check of one place: clap, silence, a spoken line, in any order; each can be left out. */
export function CheckPlace({ roomId, name, onClose }: { roomId: string; name: string; onClose: () => void }) {
  const client = useQueryClient()
  const room = useQuery(roomQueries.room(roomId))
  const { data: readings = [] } = useQuery(roomQueries.readings(roomId))
  const has = (kind: Kind) =>
    readings.some(
      (r) =>
        r.kind === kind ||
        (kind === 'clap' && ['sweep', 'ir'].includes(r.kind)) ||
        (kind === 'spoken' && r.kind === 'take'),
    )
  const [chosen, setChosen] = useState<Kind | null>(null)
  const at = chosen
  const all = CHECKS.every((c) => has(c.kind))
  const close = () => {
    void client.invalidateQueries({ queryKey: ['places'] })
    onClose()
  }
  return (
    <Sheet open onClose={close} title={`Three minutes in: ${name}`} wide>
      <ol className="mb-3 grid grid-cols-3 gap-2 max-sm:grid-cols-1">
        {CHECKS.map((check) => (
          <li key={check.kind}>
            <button
              type="button"
              aria-pressed={at === check.kind}
              onClick={() => setChosen(check.kind)}
              className={`w-full rounded-xl border px-3 py-2 text-left ${at === check.kind ? 'border-change bg-change-soft' : 'border-line bg-paper'}`}
            >
              <span className="font-semibold">
                {has(check.kind) ? '✓ ' : ''}
                {check.name}
              </span>
              <span className="block text-[0.82rem] text-ink-2">{has(check.kind) ? 'taken' : check.tells}</span>
            </button>
          </li>
        ))}
      </ol>
      {room.data && at ? (
        <RoomProvider key={roomId} room={room.data}>
          <ForecastProvider>
            <MeasuringPlace
              key={at}
              kind={at}
              onTaken={() => void client.invalidateQueries({ queryKey: ['places'] })}
              onClose={() => setChosen(null)}
            />
          </ForecastProvider>
        </RoomProvider>
      ) : null}
      {all ? (
        <p className="text-[0.95rem]">All three are taken. Its beads are filled where they settle a mark.</p>
      ) : null}
      <div className="mt-4 flex justify-end">
        <Button onClick={close}>Back to the places</Button>
      </div>
    </Sheet>
  )
}
