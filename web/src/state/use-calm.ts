import { useEffect, useRef, useState } from 'react'

const CALM_MS = 700

/** The value that goes with a key, once the key has stood still for a while: a search is too dear for every step of a drag. */
export function useCalm<T>(key: string, value: T, calmMs = CALM_MS): T {
  const [calm, setCalm] = useState({ key, value })
  const newest = useRef(value)
  newest.current = value
  useEffect(() => {
    const timer = setTimeout(() => setCalm((now) => (now.key === key ? now : { key, value: newest.current })), calmMs)
    return () => clearTimeout(timer)
  }, [key, calmMs])
  return calm.value
}
