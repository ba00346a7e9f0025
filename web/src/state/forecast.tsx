import { useQuery } from '@tanstack/react-query'
import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from 'react'
import { type Forecast, inWords, type Job, type RoomDoc } from '../api/client'
import { cache } from '../api/cache'
import { forecast, roomQueries, WEIGHED } from '../api/queries'
import { useRoom } from './room'
import { useLeaving } from '../ui/use-leaving'

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

/** Asks again whenever document or readings change; one question at a time, always the newest. */
function useForecast(document: RoomDoc, arrangementId: string | null, readings: string) {
  const { id } = useRoom()
  const [found, setFound] = useState<Forecast | null>(null)
  const asked = `${arrangementId} ${readings}`
  const [answered, setAnswered] = useState<{ document: RoomDoc; asked: string } | null>(null)
  const [trouble, setTrouble] = useState<Predicted['trouble']>(null)
  const [working, setWorking] = useState<Job | null>(null)
  const busy = useRef(false)
  const next = useRef<(() => Promise<void>) | null>(null)
  const leaving = useLeaving()
  useEffect(() => {
    if (arrangementId === null) {
      setFound(null)
      return
    }
    const ask = async () => {
      busy.current = true
      const { signal } = leaving.current
      try {
        const answer = await forecast(document, arrangementId, id, signal, setWorking)
        setFound(answer)
        setTrouble(null)
        setAnswered({ document, asked })
      } catch (error) {
        if (!signal.aborted) setTrouble(inWords(error))
      } finally {
        const following = next.current
        next.current = null
        busy.current = false
        // asked of the page as it is now: a remount gives up the first question, not the second
        if (following && !leaving.current.signal.aborted) void following()
      }
    }
    if (busy.current) next.current = ask
    else void ask()
  }, [document, arrangementId, asked, id, leaving])
  return { found, trouble, working, isFresh: answered?.document === document && answered.asked === asked }
}

/** What of the readings shows in a forecast: a new one, one set aside, one that counts no longer. */
function useReadingsDigest(): string {
  const { id } = useRoom()
  const { data = [] } = useQuery(roomQueries.readings(id))
  return JSON.stringify(data.map((r) => [r.id, r.counts, r.measured]))
}

export function ForecastProvider({ children }: { children: ReactNode }) {
  const { document, active, trying, standing } = useRoom()
  const readings = useReadingsDigest()
  const weighed = useRef(readings)
  useEffect(() => {
    if (weighed.current === readings) return
    weighed.current = readings
    void cache.invalidateQueries({ predicate: ({ queryKey }) => WEIGHED.includes(String(queryKey[0])) })
  }, [readings])
  const now = useForecast(document, active.id, readings)
  const former = useForecast(document, trying ? standing.id : null, readings)
  return (
    <Context
      value={{
        active: now.found,
        standing: trying ? former.found : null,
        trouble: now.trouble,
        isFresh: now.isFresh && (!trying || former.isFresh),
        working: now.working,
      }}
    >
      {children}
    </Context>
  )
}
