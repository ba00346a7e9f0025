import { useMutation } from '@tanstack/react-query'
import { roomChanged } from '../api/cache'
import { ofRoom } from '../api/queries'
import { useState } from 'react'
import { $api, api, type MarkKey, type Move, unwrap } from '../api/client'
import { DIGITS, ORDER } from '../marks/scales'
import { useCalm } from '../state/use-calm'
import { usePredicted } from '../state/forecast'
import { priceText } from '../state/currency'
import { useRoom } from '../state/room'
import { withoutTrying } from '../state/trying'
import { Button } from '../ui/button'
import { Caution, Failed } from '../ui/notice'

const NAMES: Record<MarkKey, string> = { bounce: 'Bounce', boom: 'Boom', hush: 'Hush', touch: 'Bass lift' }

/** Effects large enough to be told from their own uncertainty, the helpful direction first. */
function effectsOf(move: Move): { mark: MarkKey; text: string }[] {
  return ORDER.flatMap((mark) => {
    const effect = move.effects[mark]
    if (!effect || Math.abs(effect.change) < Math.max(effect.plus_minus * 0.8, mark === 'boom' ? 0.03 : 0.4)) return []
    const digits = mark === 'touch' ? 1 : Math.max(DIGITS[mark], mark === 'hush' ? 1 : 0)
    const sign = effect.change > 0 ? '+' : '−'
    return [
      {
        mark,
        text: `${NAMES[mark]} ${sign}${Math.abs(effect.change).toFixed(digits)} ${effect.unit} ±${effect.plus_minus.toFixed(digits)}`,
      },
    ]
  })
}

/** What could be done next. against : marks that a move must help; most : how many are shown. */
export function NextMoves({
  title = 'Next moves',
  against,
  most,
}: {
  title?: string
  against?: readonly MarkKey[]
  most?: number
} = {}) {
  const { id, document, standing, trying, tryOut } = useRoom()
  const { active } = usePredicted() // the marks first: a search beside them would keep them waiting
  // While one is tried the list stays what it was: the moves of the standing arrangement.
  const bare = withoutTrying(document)
  const calm = useCalm(JSON.stringify({ ...bare, name: '' }), bare)
  const moves = $api.useQuery(
    'post',
    '/api/moves',
    { body: { document: calm, arrangement_id: standing.id, room_id: id } },
    { enabled: active !== null, placeholderData: undefined },
  )

  // every figure grows towards better but the ring time
  const helps = (move: Move, mark: MarkKey) => (move.effects[mark]?.change ?? 0) * (mark === 'boom' ? -1 : 1) > 0
  const chosen = (moves.data?.moves ?? [])
    .filter((move) => !against || against.some((mark) => helps(move, mark)))
    .slice(0, most)
  return (
    <section aria-labelledby="next-moves" data-testid="next-moves">
      <h2 id="next-moves" className="mb-1 text-head">
        {title}
      </h2>
      {trying ? <Trying /> : null}
      {moves.isPending ? (
        <div className="min-h-[52rem]">
          <p className="text-note text-ink-2" role="status">
            Weighing what could be done in this room
          </p>
        </div>
      ) : moves.isError ? (
        <Failed error={moves.error} />
      ) : chosen.length === 0 ? (
        <p className="text-note text-ink-2">
          Nothing left that would help by more than its own uncertainty. Take a reading, then record.
        </p>
      ) : (
        <ol>
          {chosen.map((move, i) => (
            <MoveRow
              key={move.title}
              number={i + 1}
              move={move}
              currency={document.brief.currency}
              isTrying={trying?.trying?.title === move.title}
              onTry={() => tryOut(move)}
            />
          ))}
        </ol>
      )}
      {against
        ? null
        : moves.data?.short.map((words) => (
            <p key={words} className="mt-2 border-l-2 border-change pl-3 text-note text-ink">
              {words}
            </p>
          ))}
    </section>
  )
}

type RowProps = { number: number; move: Move; currency: string; isTrying: boolean; onTry: () => void }

function MoveRow({ number, move, currency, isTrying, onTry }: RowProps) {
  const [open, setOpen] = useState(false)
  const effects = effectsOf(move)
  return (
    <li className={`border-b border-line py-2 last:border-0 ${isTrying ? '-mx-2 rounded-xl bg-change-soft px-2' : ''}`}>
      <div className="flex items-start gap-2.5">
        <span className="w-4 shrink-0 pt-0.5 text-center font-display font-semibold text-ink-2">{number}</span>
        <p className="min-w-0 flex-1 leading-snug font-semibold">{move.title}</p>
        {isTrying ? (
          <span className="rounded-full bg-change px-3 py-1 text-small font-semibold text-on-change">Trying</span>
        ) : (
          <Button small onClick={onTry}>
            Try
          </Button>
        )}
      </div>
      <div className="ml-6.5">
        <p className="flex flex-wrap gap-x-3 text-small text-ink-2">
          {effects.length === 0 ? 'Small effect here' : null}
          {effects.map((effect) => (
            <span key={effect.mark} className="whitespace-nowrap">
              {effect.text}
            </span>
          ))}
        </p>
        <p className="text-small text-ink-2">
          {priceText(move.cost, currency)} · {move.minutes} min
          {move.reversible ? '' : ', leaves holes'} ·{' '}
          <button
            onClick={() => setOpen(!open)}
            aria-expanded={open}
            className="font-semibold underline decoration-line-strong underline-offset-2 hover:text-ink"
          >
            {move.cautions.length ? 'Why, and take care' : 'Why?'}
          </button>
        </p>
      </div>
      {open || isTrying ? (
        <div className="mt-1.5 ml-6.5 space-y-1.5">
          <p className="text-small text-ink-2">{move.why}</p>
          {move.cautions.map((text) => (
            <Caution key={text} text={text} />
          ))}
        </div>
      ) : null}
    </li>
  )
}

/** What is being tried, and the two ways on from it. */
function Trying() {
  const { id, trying, putBack, flush, adopt } = useRoom()
  const done = useMutation({
    mutationFn: async () => {
      const revision = await flush()
      return unwrap(
        await api.POST('/api/rooms/{room_id}/moves/done', {
          ...ofRoom(id),
          body: {
            revision,
            kind: trying?.trying?.kind ?? 'own',
            title: trying?.trying?.title ?? 'My own move',
            edits: [],
          },
        }),
      )
    },
    onSuccess: async (room) => {
      adopt(room)
      await roomChanged(id)
    },
  })
  return (
    <div className="my-1.5 rounded-xl border border-change bg-card px-3 py-2">
      <p className="text-note">
        The drawing shows <strong>{trying?.trying?.title ?? 'your own change'}</strong>. Do it in the room, then say so.
      </p>
      <div className="mt-2 flex gap-2">
        <Button small look="warm" disabled={done.isPending} onClick={() => done.mutate()}>
          I have done it
        </Button>
        <Button small onClick={putBack}>
          Put it back
        </Button>
      </div>
      <Failed error={done.error} />
    </div>
  )
}
