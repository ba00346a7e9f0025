import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { api, inWords, type ReadingSummary, unwrap } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { SaidField } from '../../ui/fields'
import { Notice } from '../../ui/notice'
import { type Choice, choiceOf, CHOICES, chosenTags } from './use-takes'
import { BetterThanBefore } from './which-better'

/** Keep, maybe or no, and a word: what its singer thinks of a take. Nothing is deleted. */
export function Choose({ takeId }: { takeId: string }) {
  const { id } = useRoom()
  const client = useQueryClient()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const take = readings.find((r) => r.id === takeId)
  const write = useMutation({
    mutationFn: async (said: { tags?: string[]; note?: string }) =>
      unwrap<ReadingSummary>(
        await api.PATCH('/api/readings/{reading_id}', { params: { path: { reading_id: takeId } }, body: said }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['room', id] }),
  })
  if (!take) return null
  const choice = choiceOf(take)
  const choose = (key: Choice) => write.mutate({ tags: chosenTags(take.tags, key === choice ? null : key) })
  return (
    <section aria-label="Choose" data-testid="choose">
      <div className="flex flex-wrap items-center gap-1.5">
        {CHOICES.map(({ key, name, sign }) => (
          <Button
            key={key}
            small
            look={choice === key ? 'main' : 'plain'}
            aria-pressed={choice === key}
            disabled={write.isPending}
            onClick={() => choose(key)}
          >
            <span aria-hidden>{sign}</span> {name}
          </Button>
        ))}
      </div>
      <div className="mt-1.5">
        <SaidField label="A word about it" value={take.note} onChange={(note) => write.mutate({ note })} />
      </div>
      <div className="mt-1.5">
        <BetterThanBefore take={take} />
      </div>
      {write.isError ? (
        <Notice tone="stop" title={inWords(write.error).title} body={inWords(write.error).cure} />
      ) : null}
    </section>
  )
}
