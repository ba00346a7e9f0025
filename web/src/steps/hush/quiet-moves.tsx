import { useState } from 'react'
import type { Schemas } from '../../api/client'
import { priceText } from '../../state/currency'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Caution } from '../../ui/notice'

type Quiet = Schemas['HushAnswer']['moves'][number]

/** What helps against noise: each alone, then what only a set of them does. */
export function QuietMoves({ hush }: { hush: Schemas['HushAnswer'] | undefined }) {
  const { document, tryOut } = useRoom()
  const [open, setOpen] = useState<string | null>(null)
  const moves = hush?.moves ?? []
  if (!hush || !hush.known) return null
  const row = (move: Quiet) => (
    <li key={move.title} className="border-b border-line py-2 last:border-0">
      <div className="flex items-start gap-2.5">
        <div className="min-w-0 flex-1">
          {move.parts.length === 1 ? (
            <p className="leading-snug font-semibold">{move.title}</p>
          ) : (
            <ul className="leading-snug font-semibold">
              {move.parts.map((part, i) => (
                <li key={part}>
                  {part}{' '}
                  <span className="text-small font-normal whitespace-nowrap text-ink-2 tabular-nums">
                    alone {signed(move.alone_db[i]!)} dB
                  </span>
                </li>
              ))}
            </ul>
          )}
          <p className="text-small text-ink-2 tabular-nums">
            <span className="font-semibold text-ink">{signed(move.gain_db)} dB</span> ±{move.plus_minus_db.toFixed(1)}{' '}
            under you · {priceText(move.cost, document.brief.currency)} · {move.minutes} min
            {move.cautions.length ? (
              <>
                {' '}
                ·{' '}
                <button
                  className="font-semibold underline decoration-line-strong underline-offset-2"
                  aria-expanded={open === move.title}
                  onClick={() => setOpen(open === move.title ? null : move.title)}
                >
                  Take care
                </button>
              </>
            ) : null}
          </p>
          {move.surprising ? (
            <p className="text-small font-semibold text-felt">
              Only together: while one goes on, the others are hardly missed.
            </p>
          ) : null}
          {open === move.title ? move.cautions.map((text) => <Caution key={text} text={text} />) : null}
        </div>
        <Button
          small
          onClick={() =>
            tryOut({
              kind: move.kinds.length > 1 ? 'together' : move.kinds[0]!,
              title: move.title.slice(0, 280),
              edits: move.edits,
            })
          }
        >
          Try
        </Button>
      </div>
    </li>
  )
  const [singles, sets] = [moves.filter((m) => m.parts.length === 1), moves.filter((m) => m.parts.length > 1)]
  return (
    <section aria-label="What helps" data-testid="quiet-moves">
      <h2 className="text-head">What helps now</h2>
      {sets.length ? (
        <>
          <h3 className="text-note text-ink-2">Together</h3>
          <ol>{sets.map(row)}</ol>
          <h3 className="text-note text-ink-2">Alone</h3>
        </>
      ) : null}
      {singles.length ? (
        <ol>{singles.slice(0, 8).map(row)}</ol>
      ) : (
        <p className="text-note text-ink-2">Nothing that is noted can be made quieter from here.</p>
      )}
    </section>
  )
}

const signed = (db: number) => `${db < 0 ? '−' : '+'}${Math.abs(db).toFixed(1)}`
