import type { ReactNode } from 'react'
import { inWords } from '../api/refused'

const TONES = {
  stop: 'border-bounce text-ink',
  care: 'border-change text-ink',
  good: 'border-felt text-ink',
  plain: 'border-line-strong text-ink',
}
const SIGNS = { stop: '✕', care: '!', good: '✓', plain: 'i' }
const SIGN_COLOUR = { stop: 'text-bounce', care: 'text-change', good: 'text-felt', plain: 'text-ink-2' }

/** Something to know: what happened, and what to do. Sign and border carry it, not colour alone. */
export function Notice({
  tone,
  title,
  body,
  children,
}: {
  tone: keyof typeof TONES
  title: string
  body?: string | undefined
  children?: ReactNode
}) {
  return (
    <div
      role={tone === 'stop' ? 'alert' : 'status'}
      className={`my-2 flex gap-2.5 rounded-xl border-l-4 bg-card px-3 py-2 shadow-card ${TONES[tone]}`}
    >
      <span aria-hidden className={`font-display font-bold ${SIGN_COLOUR[tone]}`}>
        {SIGNS[tone]}
      </span>
      <div className="min-w-0 text-note">
        <p className="font-semibold">{title}</p>
        {body ? <p className="text-ink-2">{body}</p> : null}
        {children}
      </div>
    </div>
  )
}

/** What failed, in the server's words, or the page's own; nothing where nothing did. */
export function Failed({ error }: { error: unknown }) {
  if (!error) return null
  const { title, cure } = inWords(error)
  return <Notice tone="stop" title={title} body={cure} />
}

/** A caution at the place where the decision is made. */
export function Caution({ text }: { text: string }) {
  return (
    <p className="flex gap-2 text-small leading-snug text-ink-2">
      <span
        aria-hidden
        className="mt-0.5 inline-block h-0 w-0 shrink-0 border-x-[6px] border-b-[11px] border-x-transparent border-b-change"
      />
      <span>
        <span className="sr-only">Caution: </span>
        {text}
      </span>
    </p>
  )
}
