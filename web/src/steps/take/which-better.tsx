import { ofReading, ofRoom } from '../../api/queries'
import { roomChanged } from '../../api/cache'
import { $api, type ReadingSummary, type Schemas } from '../../api/client'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Failed } from '../../ui/notice'
import { shortNameOfTake, useTakes } from './use-takes'

type Better = Schemas['BetterAnswer']
type Side = { id: string; name: string }
type Props = { one: Side; other: Side; blind?: { right: number; trials: number } }

/** Which of two takes is better: kept with its count where a blind test went before; said again, the last word stands. */
export function WhichBetter({ one, other, blind }: Props) {
  const { id } = useRoom()
  const said = useBetter().find((b) => [b.better_id, b.than_id].sort().join() === [one.id, other.id].sort().join())
  const keep = $api.useMutation('post', '/api/readings/{reading_id}/better', { onSuccess: () => roomChanged(id) })
  return (
    <div className="flex flex-wrap items-center gap-1.5" role="group" aria-label="Which is better?">
      <span className="text-note">Which is better?</span>
      {(
        [
          [one, other],
          [other, one],
        ] as const
      ).map(([better, than]) => (
        <Button
          key={better.id}
          small
          look={said?.better_id === better.id ? 'main' : 'plain'}
          aria-pressed={said?.better_id === better.id}
          disabled={keep.isPending}
          onClick={() => keep.mutate({ ...ofReading(better.id), body: { than_id: than.id, blind } })}
        >
          {better.name}
        </Button>
      ))}
      {said?.blind ? (
        <span className="text-fine text-ink-2">
          told apart {said.blind.right} of {said.blind.trials}
        </span>
      ) : null}
      <Failed error={keep.error} />
    </div>
  )
}

/** A take against the one before it: asked beside what is chosen for it. */
export function BetterThanBefore({ take }: { take: ReadingSummary }) {
  const takes = useTakes()
  const before = takes[takes.findIndex((r) => r.id === take.id) + 1]
  if (!before || !takes.some((r) => r.id === take.id)) return null
  return (
    <WhichBetter
      one={{ id: take.id, name: 'This one' }}
      other={{ id: before.id, name: shortNameOfTake(before, takes) }}
    />
  )
}

function useBetter(): readonly Better[] {
  const { id } = useRoom()
  const { data = [] } = $api.useQuery('get', '/api/rooms/{room_id}/better', ofRoom(id))
  return data
}
