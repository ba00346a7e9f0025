import { useQuery } from '@tanstack/react-query'
import { roomChanged } from '../../api/cache'
import { $api, type Schemas } from '../../api/client'
import { ofReading, roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { SaidField } from '../../ui/fields'
import { Failed } from '../../ui/notice'
import { type Choice, choiceOf, CHOICES, chosenTags } from './use-takes'
import { BetterThanBefore } from './which-better'

/** Keep, maybe or no, and a word: what its singer thinks of a take. Nothing is deleted. */
export function Choose({ takeId }: { takeId: string }) {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const take = readings.find((r) => r.id === takeId)
  const writing = $api.useMutation('patch', '/api/readings/{reading_id}', { onSuccess: () => roomChanged(id) })
  const write = (body: Schemas['ReadingUpdate']) => writing.mutate({ ...ofReading(takeId), body })
  if (!take) return null
  const choice = choiceOf(take)
  const choose = (key: Choice) => write({ tags: chosenTags(take.tags, key === choice ? null : key) })
  return (
    <section aria-label="Choose" data-testid="choose">
      <div className="flex flex-wrap items-center gap-1.5">
        {CHOICES.map(({ key, name, sign }) => (
          <Button
            key={key}
            small
            look={choice === key ? 'main' : 'plain'}
            aria-pressed={choice === key}
            disabled={writing.isPending}
            onClick={() => choose(key)}
          >
            <span aria-hidden>{sign}</span> {name}
          </Button>
        ))}
      </div>
      <div className="mt-1.5">
        <SaidField label="A word about it" value={take.note} onChange={(note) => write({ note })} />
      </div>
      <div className="mt-1.5">
        <BetterThanBefore take={take} />
      </div>
      <Failed error={writing.error} />
    </section>
  )
}
