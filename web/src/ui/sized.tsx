import { type ReactNode, useEffect, useRef, useState } from 'react'

/** Gives its children the size of the place they are drawn in. */
export function Sized({ children }: { children: (w: number, h: number) => ReactNode }) {
  const box = useRef<HTMLDivElement>(null)
  const [size, setSize] = useState<{ w: number; h: number } | null>(null)
  useEffect(() => {
    const watcher = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect
      if (width > 0 && height > 0) setSize({ w: width, h: height })
    })
    watcher.observe(box.current!)
    // what measures its own words does so anew in the face that they are set in
    void document.fonts?.ready.then(() => setSize((now) => now && { ...now }))
    return () => watcher.disconnect()
  }, [])
  return (
    <div ref={box} className="absolute inset-0">
      {size ? children(size.w, size.h) : null}
    </div>
  )
}
