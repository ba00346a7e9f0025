import { useEffect, useRef } from 'react'

/** A signal that is aborted when what asks is no longer shown: work done for it is then stopped. */
export function useLeaving() {
  const leaving = useRef(new AbortController())
  useEffect(() => {
    const gone = new AbortController()
    leaving.current = gone
    return () => gone.abort()
  }, [])
  return leaving
}
