import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { cache } from '../api/cache'
import { $api } from '../api/client'
import { roomQueries } from '../api/queries'
import { useRoom } from './room'
import { useSettled } from './use-settled'

/** What noise means for the arrangement in sight; the last answer stays while the next is worked out. */
export function useHush() {
  const { ask, enabled } = useSettled()
  return $api.useQuery('post', '/api/hush', { body: ask }, { enabled })
}

/** Chances of an undisturbed take, by what is noted and what was watched: asked anew as a watch goes on. */
export function useHours() {
  const { id } = useRoom()
  const { ask, enabled } = useSettled()
  const { data: watched } = useQuery(roomQueries.watches(id))
  const heard = watched && JSON.stringify(watched.map((w) => [w.id, w.counts, Math.floor(w.seconds / 600)]))
  const last = useRef(heard)
  useEffect(() => {
    if (last.current !== undefined && last.current !== heard)
      void cache.invalidateQueries({ queryKey: ['post', '/api/hours'] })
    last.current = heard
  }, [heard])
  return $api.useQuery('post', '/api/hours', { body: ask }, { enabled })
}
