import { useState } from 'react'
import type { Treatment } from '../../api/client'
import { useRoom } from '../../state/room'
import { lengthText, useUnits } from '../../state/units'
import { Button } from '../../ui/button'
import { HangOwn } from './hang-own'
import { PIECES, type PieceKind } from './pieces'

const surfaceWords = (surface: string) => surface.replace('wall-', 'wall ').replace('ceiling-', 'ceiling ')

/** What hangs already, and what could be hung by hand: each opens with its usual size, to be placed. */
export function Shelf() {
  const { active } = useRoom()
  const [hanging, setHanging] = useState<PieceKind | null>(null)
  return (
    <section aria-labelledby="shelf" className="shrink-0 rounded-2xl bg-floor px-3 py-2" data-testid="shelf">
      <div className="flex items-baseline justify-between gap-3">
        <h3 id="shelf" className="text-[1.02rem]">
          What hangs and lies here
        </h3>
        <p className="text-[0.82rem] text-ink-2 max-lg:hidden">
          Take a piece from the shelf, then drag it along its wall.
        </p>
      </div>
      <ul className="mt-1.5 flex gap-2 overflow-x-auto pb-1">
        {active.treatments.map((t, i) => (
          <Hangs key={i} number={i} treatment={t} />
        ))}
        {PIECES.map((piece) => (
          <li key={piece.key} className="shrink-0">
            <button
              onClick={() => setHanging(piece)}
              className="flex h-full w-32 flex-col rounded-xl border border-dashed border-line-strong px-2.5 py-1.5 text-left hover:bg-card"
            >
              <span className="text-[0.9rem] leading-tight font-semibold">{piece.name}</span>
              <span className="text-[0.78rem] text-ink-2">{piece.says}</span>
            </button>
          </li>
        ))}
      </ul>
      {hanging ? <HangOwn piece={hanging} onClose={() => setHanging(null)} /> : null}
    </section>
  )
}

function Hangs({ number, treatment: t }: { number: number; treatment: Treatment }) {
  const { edit } = useRoom()
  const units = useUnits()
  return (
    <li className="w-44 shrink-0 rounded-xl border border-line bg-card px-2.5 py-1.5">
      <p className="truncate text-[0.9rem] font-semibold">{t.label ?? t.kind}</p>
      <p className="text-[0.78rem] text-ink-2">
        {lengthText(t.width_m, units)} × {lengthText(t.height_m, units)} on {surfaceWords(t.surface)}
      </p>
      <Button small look="quiet" className="-ml-2" onClick={() => edit({ do: 'take-down', number })}>
        Take down
      </Button>
    </li>
  )
}
