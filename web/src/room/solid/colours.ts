import { useEffect, useState } from 'react'

const TOKENS = [
  'floor',
  'wall',
  'card',
  'felt',
  'ink-2',
  'line-strong',
  'bounce',
  'boom',
  'change',
  'mic',
  'paper',
] as const
export type Colours = Record<(typeof TOKENS)[number], string>

/** The drawing's own colours, read from the page so that both themes hold. */
export function useColours(): Colours {
  const read = () =>
    Object.fromEntries(
      TOKENS.map((t) => [t, getComputedStyle(document.documentElement).getPropertyValue(`--${t}`).trim()]),
    ) as Colours
  const [colours, setColours] = useState(read)
  useEffect(() => {
    const watcher = new MutationObserver(() => setColours(read()))
    watcher.observe(document.documentElement, { attributes: true, attributeFilter: ['data-theme'] })
    return () => watcher.disconnect()
  }, [])
  return colours
}
