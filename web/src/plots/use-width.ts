import { useEffect, useRef, useState } from 'react'

/** A box and its width, at least what a plot needs to be drawn at all. [px] */
export function useWidth() {
  const box = useRef<HTMLDivElement>(null)
  const [w, setW] = useState(720)
  useEffect(() => {
    const watcher = new ResizeObserver(([entry]) => setW(Math.max(entry!.contentRect.width, 260)))
    watcher.observe(box.current!)
    return () => watcher.disconnect()
  }, [])
  return { box, w }
}
