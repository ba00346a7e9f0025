import { createContext, type ReactNode, useContext, useEffect, useRef, useState } from 'react'
import { type Forecast, inWords, type RoomDoc } from '../api/client'
import { forecast, type Working } from '../api/queries'
import { useRoom } from './room'

type Predicted = {
  /** For the arrangement in sight: the one being tried, else the standing one. */
  active: Forecast | null
  /** For the standing arrangement while another is tried. */
  standing: Forecast | null
  /** Why there is none, when the room as drawn cannot be computed. */
  trouble: { title: string; cure: string } | null
  /** Background work that the forecast waits for. */
  working: Working | null
}

const Context = createContext<Predicted>({ active: null, standing: null, trouble: null, working: null })
export const usePredicted = () => useContext(Context)

/** Asks again whenever the document changes; one question at a time, always the newest. */
function useForecast(document: RoomDoc, arrangementId: string | null) {
  const [found, setFound] = useState<Forecast | null>(null)
  const [trouble, setTrouble] = useState<Predicted['trouble']>(null)
  const [working, setWorking] = useState<Working | null>(null)
  const busy = useRef(false)
  const next = useRef<(() => Promise<void>) | null>(null)
  useEffect(() => {
    if (arrangementId === null) {
      setFound(null)
      return
    }
    const stop = new AbortController()
    const ask = async () => {
      busy.current = true
      try {
        const answer = await forecast(document, arrangementId, stop.signal, setWorking)
        setFound(answer)
        setTrouble(null)
      } catch (error) {
        if (!stop.signal.aborted) setTrouble(inWords(error))
      } finally {
        const following = next.current
        next.current = null
        busy.current = false
        if (following) void following()
      }
    }
    if (busy.current) next.current = ask
    else void ask()
  }, [document, arrangementId])
  return { found, trouble, working }
}

export function ForecastProvider({ children }: { children: ReactNode }) {
  const { document, active, trying, standing } = useRoom()
  const now = useForecast(document, active.id)
  const former = useForecast(document, trying ? standing.id : null)
  return (
    <Context
      value={{ active: now.found, standing: trying ? former.found : null, trouble: now.trouble, working: now.working }}
    >
      {children}
    </Context>
  )
}
