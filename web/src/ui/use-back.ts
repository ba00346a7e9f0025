import { useEffect, useRef } from 'react'

const LOOK_EVERY_MS = 3000

/** While something waits for the server, asks whether it answers again, and then goes on by itself. */
export function useBack(waits: boolean, goOn: () => void) {
  const newest = useRef(goOn)
  newest.current = goOn
  useEffect(() => {
    if (!waits) return
    const look = () =>
      void fetch('/api/health')
        .then((answer) => answer.ok && newest.current())
        .catch(() => undefined)
    const timer = setInterval(look, LOOK_EVERY_MS)
    addEventListener('online', look)
    return () => {
      clearInterval(timer)
      removeEventListener('online', look)
    }
  }, [waits])
}
