import { useQuery } from '@tanstack/react-query'
import type { ReadingSummary } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'

/** Takes that can be used, newest first. */
export function useTakes(): ReadingSummary[] {
  const { id } = useRoom()
  const { data = [] } = useQuery(roomQueries.readings(id))
  return data.filter((r) => r.form === 'take' && r.verdict.usable)
}

/** What a take is called in a list: its song and section, else its number, and when it was sung. */
export function nameOfTake(take: ReadingSummary, all: readonly ReadingSummary[]): string {
  const number = all.length - all.findIndex((r) => r.id === take.id)
  const words = take.tags.filter((t) => t !== 'line' && !t.includes(':')).join(' ')
  const when = new Date(take.taken_at).toLocaleString([], {
    month: 'short',
    day: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  })
  return `${words || 'Take'} ${number}, ${when}`
}
