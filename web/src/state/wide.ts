import { useSyncExternalStore } from 'react'

const query = globalThis.matchMedia?.('(min-width: 64rem)') ?? null

/** Whether the window is as wide as a laptop's: the same line as Tailwind's `lg`. */
export const useWide = () =>
  useSyncExternalStore(
    (tell) => {
      query?.addEventListener('change', tell)
      return () => query?.removeEventListener('change', tell)
    },
    () => query?.matches ?? true,
  )
