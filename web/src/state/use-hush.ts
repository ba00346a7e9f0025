import { useQuery } from '@tanstack/react-query'
import { hushQueries } from '../api/hush'
import { useRoom } from './room'
import { useSettled } from './use-settled'

/** What noise means for the arrangement in sight; the last answer stays while the next is worked out. */
export function useHush() {
  const { id } = useRoom()
  const { document, arrangementId, enabled } = useSettled()
  return useQuery({ ...hushQueries.hush(id, document, arrangementId), enabled })
}

/** Chances of an undisturbed take, by what is noted and what was watched. */
export function useHours() {
  const { id } = useRoom()
  const { document, arrangementId, enabled } = useSettled()
  const { data: watched = [] } = useQuery(hushQueries.watches(id))
  const digest = JSON.stringify(watched.map((w) => [w.id, w.counts, Math.floor(w.seconds / 600)]))
  return useQuery({ ...hushQueries.hours(id, document, arrangementId, digest), enabled })
}
