import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { PAGE } from '../api/queries'
import { Button } from '../ui/button'
import { Failed } from '../ui/notice'

/** A list whose first page is there, and a button for the next while there is one. */
export function useMore<T extends { id: string }>(
  first: readonly T[],
  next: (all: readonly T[]) => Promise<T[]>,
  label: string,
) {
  const [turned, setTurned] = useState<{ under: string; pages: readonly T[][] }>({ under: '', pages: [] })
  const under = first.at(-1)?.id ?? ''
  // when something new moves the first page, what is under it begins elsewhere
  const pages = turned.under === under ? turned.pages : []
  const all = [...first, ...pages.flat()]
  const turn = useMutation({
    mutationFn: () => next(all),
    onSuccess: (page) => setTurned({ under, pages: [...pages, page] }),
  })
  const isWhole = (pages.at(-1) ?? first).length < PAGE
  const button = isWhole ? null : (
    <div className="mt-3">
      <Button disabled={turn.isPending} onClick={() => turn.mutate()}>
        {label}
      </Button>
      <Failed error={turn.error} />
    </div>
  )
  return { all, button }
}
