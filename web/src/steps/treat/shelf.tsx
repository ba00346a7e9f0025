import { useState } from 'react'
import type { Schemas, Treatment } from '../../api/client'
import { mirrored } from '../../room/mirrored'
import { liesOver } from './lies-over'
import { useCatalogue } from '../../state/catalogue'
import { usePrices } from '../../state/prices'
import { useRoom } from '../../state/room'
import { lengthText, useUnits } from '../../state/units'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { Segmented } from '../../ui/segmented'
import { AbsorptionCurve } from '../tape/absorption-curve'
import { HangOwn } from './hang-own'
import { PieceCurve } from './piece-curve'
import { OWN, type PieceKind, pieceKind } from './pieces'
import { useSetUp } from './set-up'

type Piece = Schemas['PieceAnswer']

const surfaceWords = (surface: string) => surface.replace('wall-', 'wall ').replace('ceiling-', 'ceiling ')
const GROUPS = [
  { key: 'home', name: 'At home' },
  { key: 'make', name: 'To make' },
  { key: 'buy', name: 'To buy' },
  { key: 'here', name: 'Hangs here' },
] as const

/** What could be hung or set up, each with what it swallows from low to high; and what hangs already. */
export function Shelf() {
  const { active } = useRoom()
  const { pieces, diffusing } = useCatalogue()
  const [chosen, setGroup] = useState<(typeof GROUPS)[number]['key'] | null>(null)
  // until somebody chooses: what hangs here, else what most homes have
  const group = chosen ?? (active.treatments.length ? 'here' : 'home')
  const [hanging, setHanging] = useState<PieceKind | null>(null)
  const [comparing, setComparing] = useState(false)
  const setUp = useSetUp()
  const take = (piece: Piece) => (piece.stands ? setUp(piece) : setHanging(pieceKind(piece)))
  return (
    <section aria-label="Shelf" data-testid="shelf">
      <div className="flex flex-wrap items-center gap-2">
        <Segmented small label="Which pieces" value={group} options={GROUPS} onChange={setGroup} />
        <Button small look="quiet" onClick={() => setComparing(true)}>
          Compare thicknesses
        </Button>
        <p className="text-fine text-ink-2 max-lg:hidden">Low notes on the left of each curve, high on the right.</p>
      </div>
      {group === 'here' ? (
        <ul className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(11rem,1fr))] gap-2">
          {active.treatments.length ? (
            active.treatments.map((t, i) => <Hangs key={i} number={i} treatment={t} />)
          ) : (
            <li className="text-note text-ink-2">Nothing hangs here yet.</li>
          )}
        </ul>
      ) : (
        <ul className="mt-2 grid grid-cols-[repeat(auto-fill,minmax(9.5rem,1fr))] gap-2">
          {pieces
            .filter((piece) => piece.group === group)
            .map((piece) => (
              <li key={piece.key}>
                <OnShelf piece={piece} onTake={() => take(piece)} />
              </li>
            ))}
          {group === 'home' ? (
            <li>
              <button
                onClick={() => setHanging(OWN)}
                className="flex h-full w-full flex-col rounded-xl border border-dashed border-line-strong px-2.5 py-1.5 text-left hover:bg-floor"
              >
                <span className="text-note leading-tight font-semibold">Hang something of your own</span>
                <span className="text-fine text-ink-2">any material and size</span>
              </button>
            </li>
          ) : null}
        </ul>
      )}
      {group === 'buy' ? <p className="mt-2 text-fine leading-snug text-ink-2">{diffusing}</p> : null}
      {hanging ? <HangOwn piece={hanging} onClose={() => setHanging(null)} /> : null}
      <Sheet open={comparing} onClose={() => setComparing(false)} title="How thick?" wide>
        <Thicknesses pieces={pieces} />
      </Sheet>
    </section>
  )
}

function OnShelf({ piece, onTake }: { piece: Piece; onTake: () => void }) {
  const { currency, ofPiece } = usePrices()
  const price = ofPiece(piece)
  return (
    <button
      onClick={onTake}
      className="flex h-full w-full flex-col rounded-xl border border-line bg-paper px-2.5 py-1.5 text-left hover:border-line-strong hover:bg-floor"
    >
      <span className="text-note leading-tight font-semibold">{piece.label}</span>
      <PieceCurve absorption={piece.absorption} name={piece.label} />
      <span className="text-fine leading-snug text-ink-2">{piece.says}</span>
      <span className="mt-auto pt-0.5 text-fine text-ink-2">
        {price > 0 ? `about ${currency}${price.toFixed(0)}` : 'free'} · {piece.kg.toFixed(0)} kg
      </span>
    </button>
  )
}

const THICK = ['foam-25', 'panel-50', 'panel', 'panel-150'] as const
const CENTRES = [63, 125, 250, 500, 1000, 2000, 4000, 8000]

/** 2.5, 5, 10 and 15 cm side by side: what each swallows. */
function Thicknesses({ pieces }: { pieces: readonly Piece[] }) {
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      {THICK.flatMap((key) => pieces.filter((p) => p.key === key)).map((piece) => (
        <figure key={piece.key}>
          <figcaption className="mb-1 font-semibold">{piece.label}</figcaption>
          <AbsorptionCurve label={piece.label} points={piece.absorption.map((a, i) => [CENTRES[i]!, a] as const)} />
        </figure>
      ))}
      <p className="text-small text-ink-2 sm:col-span-2">
        A layer swallows from where it is about a tenth of the wave deep: 2.5 cm from 1000 Hz up, 10 cm from 250 Hz,
        with as much air behind it from half of that.
      </p>
    </div>
  )
}

function Hangs({ number, treatment: t }: { number: number; treatment: Treatment }) {
  const { document, active, edit } = useRoom()
  const units = useUnits()
  const opposite = mirrored(document, active, t)
  const over = liesOver(t, [...active.treatments.filter((_, i) => i !== number), ...document.openings])
  const copied = { ...t, x_m: t.x_m + t.width_m + 0.05 }
  return (
    <li className="rounded-xl border border-line bg-paper px-2.5 py-1.5">
      <p className="truncate text-note font-semibold">{t.label ?? t.kind}</p>
      <p className="text-fine text-ink-2">
        {lengthText(t.width_m, units)} × {lengthText(t.height_m, units)} on {surfaceWords(t.surface)}
      </p>
      {over ? (
        <p className="text-fine font-semibold text-bounce">It lies over the {over.toLowerCase()}: move one of them.</p>
      ) : null}
      <div className="-ml-2 flex">
        <Button small look="quiet" onClick={() => edit({ do: 'take-down', number })}>
          Take down
        </Button>
        <Button small look="quiet" onClick={() => edit({ do: 'hang', treatment: copied })}>
          One more
        </Button>
        {opposite ? (
          <Button small look="quiet" onClick={() => edit({ do: 'hang', treatment: opposite })}>
            Mirror
          </Button>
        ) : null}
      </div>
    </li>
  )
}
