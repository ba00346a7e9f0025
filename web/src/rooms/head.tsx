import type { ReactNode } from 'react'

/** A stage's question, and the first line that answers it with a figure. */
export function Head({ question, answer, tools }: { question: string; answer: ReactNode; tools?: ReactNode }) {
  return (
    <div className="grid grid-cols-[1fr_auto] items-center gap-x-4 pt-2.5 max-lg:grid-cols-[minmax(0,1fr)] max-lg:pt-1">
      <h2 className="text-title leading-tight">{question}</h2>
      <div className="max-lg:order-3 max-lg:pt-1">{tools}</div>
      <p
        className="min-h-[1.45em] max-lg:order-2 max-lg:min-h-[2.9em] lg:col-span-2 text-plain text-ink-2"
        data-testid="first-line"
        aria-live="polite"
      >
        {answer}
      </p>
    </div>
  )
}
