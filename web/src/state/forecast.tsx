import { useQuery } from '@tanstack/react-query'
import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from 'react'
import { $api, type Forecast, inWords, type Job, type RoomDoc } from '../api/client'
import { cache } from '../api/cache'
import { roomQueries } from '../api/queries'
import { useWork } from '../api/waiting'
import { useRoom } from './room'

type Predicted = {
  /** For the arrangement in sight: the one being tried, else the standing one. */
  active: Forecast | null
  /** For the standing arrangement while another is tried. */
  standing: Forecast | null
  /** Why there is none, when the room as drawn cannot be computed. */
  trouble: { title: string; cure: string } | null
  /** Whether `active` speaks of what is in sight now, and not of what was a moment ago. */
  isFresh: boolean
  /** Background work that the forecast waits for. */
  working: Job | null
}

const Context = createContext<Predicted>({
  active: null,
  standing: null,
  trouble: null,
  isFresh: false,
  working: null,
})
export const usePredicted = () => useContext(Context)

const NOTHING: Ask = { document: {} as RoomDoc, arrangement_id: '', room_id: '', to_hz: 300 }
type Ask = { document: RoomDoc; arrangement_id: string; room_id: string; to_hz: number }
const isSame = (a: Ask | null, b: Ask | null) =>
  a === b || (a?.document === b?.document && a?.arrangement_id === b?.arrangement_id)

/** The forecast that was asked for last, one question at a time and after it the newest; null asks for none. */
function useForecast(now: Ask | null) {
  const [asked, setAsked] = useState(now)
  const [found, setFound] = useState<Forecast | null>(null)
  const query = $api.useQuery('post', '/api/forecast', { body: asked ?? NOTHING }, { enabled: asked !== null })
  const isIdle = asked === null || !query.isFetching
  if (isIdle && !isSame(asked, now)) setAsked(now)
  const answer = query.isPlaceholderData ? null : query.data
  if (answer && answer !== found) setFound(answer) // the last one stays in sight, also where the next is refused
  return {
    found: now === null ? null : found,
    trouble: query.error && !query.isFetching ? inWords(query.error) : null,
    isFresh: isIdle && isSame(asked, now) && answer !== null && !query.error,
  }
}

/** What of the readings shows in a forecast: a new one, one set aside, one that counts no longer. */
function useReadingsDigest(): string {
  const { id } = useRoom()
  const { data = [] } = useQuery(roomQueries.readings(id))
  return JSON.stringify(data.map((r) => [r.id, r.counts, r.measured]))
}

export function ForecastProvider({ children }: { children: ReactNode }) {
  const { id, document, active, trying, standing } = useRoom()
  const readings = useReadingsDigest()
  const weighed = useRef(readings)
  useEffect(() => {
    if (weighed.current === readings) return
    weighed.current = readings
    void cache.invalidateQueries({ queryKey: ['post'] }) // whatever was asked of the room as it was read
  }, [readings])
  const of = (arrangement_id: string): Ask => ({ document, arrangement_id, room_id: id, to_hz: 300 })
  const now = useForecast(of(active.id))
  const former = useForecast(trying ? of(standing.id) : null)
  const working = useWork('/api/forecast')
  return (
    <Context
      value={{
        active: now.found,
        standing: trying ? former.found : null,
        trouble: now.trouble,
        isFresh: now.isFresh && (!trying || former.isFresh),
        working,
      }}
    >
      {children}
    </Context>
  )
}
