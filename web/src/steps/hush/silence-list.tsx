import { useQuery } from '@tanstack/react-query'
import { roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'

/** Silences of this room that can be used, newest first, as choices. */
export function useSilences(): { key: string; name: string; hint: string; seconds: number }[] {
  const { id } = useRoom()
  const { data = [] } = useQuery(roomQueries.readings(id))
  return data
    .filter((r) => r.form === 'tone' && r.verdict.usable)
    .map((r) => ({
      key: r.id,
      name: `${new Date(r.taken_at).toLocaleString([], { month: 'short', day: 'numeric', hour: '2-digit', minute: '2-digit' })}${r.note ? `, ${r.note}` : ''}`,
      hint: `${r.headline.said ?? ''}${r.simulated ? ', simulated' : ''}`,
      seconds: r.seconds,
    }))
}
