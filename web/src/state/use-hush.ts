import { useQuery } from '@tanstack/react-query'
import { hushQueries } from '../api/hush'
import { useCalm } from './use-calm'
import { useRoom } from './room'

/** What noise means for the arrangement in sight; the last answer stays while the next is worked out. */
export function useHush() {
  const { document, active } = useRoom()
  const calm = useCalm(JSON.stringify(document), document)
  return useQuery(hushQueries.hush(calm, active.id))
}

/** Chances of an undisturbed take, by what is noted and what was watched. */
export function useHours() {
  const { id, document, active } = useRoom()
  const calm = useCalm(JSON.stringify(document), document)
  const { data: watched = [] } = useQuery(hushQueries.watches(id))
  const digest = JSON.stringify(watched.map((w) => [w.id, w.counts, Math.floor(w.seconds / 600)]))
  return useQuery(hushQueries.hours(id, calm, active.id, digest))
}
