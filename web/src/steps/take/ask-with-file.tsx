import { type ReactNode, useRef, useState } from 'react'
import { inWords } from '../../api/client'
import { Button } from '../../ui/button'

type Props<T> = {
  /** What the file is, for those who hear the page. */
  label: string
  choose: string
  busy: string
  ask: (file: File) => Promise<T>
  /** What the answer says; a picture of it may follow below. */
  said: (found: T) => string
  children?: (found: T) => ReactNode
}

/** A question that a recording of one's own answers. */
export function AskWithFile<T>({ label, choose, busy, ask, said, children }: Props<T>) {
  const picker = useRef<HTMLInputElement>(null)
  const [found, setFound] = useState<T | null>(null)
  const [state, setState] = useState<string | null>(null)
  const bring = async (file: File | undefined) => {
    if (!file) return
    setState(busy)
    setFound(null)
    try {
      setFound(await ask(file))
      setState(null)
    } catch (error) {
      setState(`${inWords(error).title} ${inWords(error).cure}`)
    }
  }
  return (
    <>
      <input
        ref={picker}
        type="file"
        accept="audio/*,.wav,.flac,.aif,.aiff,.ogg"
        className="sr-only"
        aria-label={label}
        onChange={(event) => {
          void bring(event.target.files?.[0])
          event.target.value = ''
        }}
      />
      <div className="mt-1 flex flex-wrap items-center gap-x-3 gap-y-1">
        <Button small onClick={() => picker.current?.click()}>
          {choose}
        </Button>
        <p role="status" className="min-w-0 flex-1 basis-64 text-note">
          {state ?? (found === null ? '' : said(found))}
        </p>
      </div>
      {found === null ? null : children?.(found)}
    </>
  )
}
