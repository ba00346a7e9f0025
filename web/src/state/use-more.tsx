import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { PAGE } from '../api/queries'
import { Button } from '../ui/button'
import { Failed } from '../ui/notice'

/** A list whose first page is there, and a button for the next while there is one. */
export function useMore<T>(first: readonly T[], next: (all: readonly T[]) => Promise<T[]>, label: string) {
  const [pages, setPages] = useState<readonly T[][]>([])
  const all = [...first, ...pages.flat()]
  const turn = useMutation({ mutationFn: () => next(all), onSuccess: (page) => setPages([...pages, page]) })
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
