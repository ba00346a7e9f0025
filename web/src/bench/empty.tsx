import type { Reading } from '../api/client'

/** Nothing to show yet, and what would bring it. */
export function Empty({ title, text }: { title: string; text: string }) {
  return (
    <div className="flex min-h-40 flex-col justify-center rounded-lg">
      <h2 className="text-head">{title}</h2>
      <p className="text-ink-2">{text}</p>
    </div>
  )
}

export const Unusable = ({ reading }: { reading: Reading }) => (
  <Empty
    title="This reading cannot be used"
    text={reading.verdict.reasons.map((r) => `${r.text} ${r.cure}`).join(' ')}
  />
)
