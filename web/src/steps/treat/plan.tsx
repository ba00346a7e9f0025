import { useState } from 'react'
import { $api, type Schemas } from '../../api/client'
import { useRoom } from '../../state/room'
import { sheetsOf, withSheet } from '../../state/sheets'
import { withoutTrying } from '../../state/trying'
import { Button } from '../../ui/button'
import { NumberField } from '../../ui/fields'
import { Failed, Notice } from '../../ui/notice'

type PlanSheet = Schemas['PlanSheet']
/** What a plan must keep to. */
type PlanAsked = Omit<Schemas['PlanAsk'], 'document' | 'arrangement_id' | 'room_id' | 'quick' | 'only'> & {
  budget: number
}
type Planned = PlanSheet['moves'][number]

const MARKS = [
  { key: 'bounce', name: 'Bounce' },
  { key: 'boom', name: 'Boom' },
  { key: 'hush', name: 'Hush' },
  { key: 'touch', name: 'Touch' },
] as const

/** A plan within a budget: pieces, places, screens and noises searched together, each move with what it adds. */
export function Plan() {
  const { document } = useRoom()
  const { budget } = document.brief
  const fresh: PlanAsked = { budget, locked: [], locked_cost: 0, keep_free: [], reversible: false, marks: [] }
  const [draft, setDraft] = useState(fresh)
  const [asked, setAsked] = useState<PlanAsked | null>(null)
  return (
    <div data-testid="plan" className="space-y-2">
      <Asked draft={draft} onChange={setDraft} onAsk={() => setAsked({ ...draft })} />
      {asked ? (
        <Found
          asked={asked}
          onStop={() => setAsked(null)}
          onLock={(moves) => {
            const next = {
              ...asked,
              locked: moves.flatMap((m) => m.edits),
              locked_cost: moves.reduce((sum, m) => sum + m.cost, 0),
            }
            setDraft(next)
            setAsked(next)
          }}
        />
      ) : (
        <p className="text-note text-ink-2">
          Three plans: nothing spent, modest, all of the budget. Each is an order: what a move adds after those above
          it.
        </p>
      )}
    </div>
  )
}

type AskedProps = { draft: PlanAsked; onChange: (next: PlanAsked) => void; onAsk: () => void }

function Asked({ draft, onChange, onAsk }: AskedProps) {
  const { document } = useRoom()
  const walls = document.shape.plan.map((_, i) => ({ key: `wall-${i + 1}`, name: `Wall ${i + 1}` }))
  const toggled = (list: readonly string[], key: string) =>
    list.includes(key) ? list.filter((k) => k !== key) : [...list, key]
  return (
    <div className="flex flex-wrap items-end gap-x-4 gap-y-1.5 text-small">
      <div className="w-28">
        <NumberField
          label="May be spent"
          unit={document.brief.currency}
          value={draft.budget}
          low={0}
          high={100000}
          onChange={(budget) => onChange({ ...draft, budget })}
        />
      </div>
      <fieldset>
        <legend className="text-ink-2">Which marks matter</legend>
        <div className="flex gap-3">
          {MARKS.map(({ key, name }) => (
            <label key={key} className="flex min-h-8 items-center gap-1">
              <input
                type="checkbox"
                checked={draft.marks.length === 0 || draft.marks.includes(key)}
                onChange={() => {
                  const all = draft.marks.length ? draft.marks : MARKS.map((m) => m.key)
                  const next = toggled(all, key)
                  onChange({ ...draft, marks: next.length === MARKS.length ? [] : next })
                }}
              />
              {name}
            </label>
          ))}
        </div>
      </fieldset>
      <details className="relative">
        <summary className="flex min-h-8 cursor-pointer items-center font-semibold">
          Keep walls free{draft.keep_free.length ? ` (${draft.keep_free.length})` : ''}
        </summary>
        <div className="absolute bottom-full left-0 z-10 max-h-52 overflow-y-auto rounded-xl border border-line bg-card p-2 shadow-card">
          {walls.map(({ key, name }) => (
            <label key={key} className="flex min-h-8 items-center gap-1.5 whitespace-nowrap">
              <input
                type="checkbox"
                checked={draft.keep_free.includes(key)}
                onChange={() => onChange({ ...draft, keep_free: toggled(draft.keep_free, key) })}
              />
              {name}
            </label>
          ))}
        </div>
      </details>
      <label className="flex min-h-8 items-center gap-1.5">
        <input
          type="checkbox"
          checked={draft.reversible}
          onChange={() => onChange({ ...draft, reversible: !draft.reversible })}
        />
        No traces
      </label>
      <Button small look="main" onClick={onAsk}>
        {draft.locked.length ? 'Search around what is locked' : 'Make plans'}
      </Button>
      {draft.locked.length ? (
        <Button small look="quiet" onClick={() => onChange({ ...draft, locked: [], locked_cost: 0 })}>
          Unlock all
        </Button>
      ) : null}
    </div>
  )
}

type FoundProps = {
  asked: PlanAsked
  onStop: () => void
  onLock: (moves: readonly Planned[]) => void
}

function Found({ asked, onStop, onLock }: FoundProps) {
  const { id, document, standing } = useRoom()
  // plans start from what stands; one being tried changes nothing of them
  const [bare] = useState(() => withoutTrying(document))
  const changed = JSON.stringify(withoutTrying(document).arrangements[0]) !== JSON.stringify(bare.arrangements[0])
  const ask = { ...asked, document: bare, arrangement_id: standing.id, room_id: id }
  const first = $api.useQuery(
    'post',
    '/api/plan',
    { body: { ...ask, quick: true } },
    { gcTime: 300_000, placeholderData: undefined },
  )
  const whole = $api.useQuery(
    'post',
    '/api/plan',
    { body: { ...ask, quick: false } },
    { gcTime: 300_000, placeholderData: undefined },
  )
  const found = whole.data ?? first.data
  const { isKept, keep } = useKeeping()
  const unkept = (whole.data?.plans ?? []).filter((plan) => plan.moves.length > 0 && !isKept(plan))
  if (whole.isError) return <Failed error={whole.error} />
  if (!found)
    return (
      <p role="status" className="text-note text-ink-2">
        Weighing pieces, places, screens and noises together
      </p>
    )
  return (
    <div className="space-y-2">
      {whole.data ? null : (
        <p role="status" className="flex items-center gap-2 text-small text-ink-2">
          A first answer; trying many more pieces and places
          <Button small look="quiet" onClick={onStop}>
            Stop
          </Button>
        </p>
      )}
      {changed ? (
        <Notice
          tone="care"
          title="The room has changed since."
          body="These plans were made for it as it was: make them again. Nothing is lost."
        />
      ) : null}
      {unkept.length > 1 ? (
        <Button small onClick={() => keep(...unkept)}>
          {unkept.length === 2
            ? 'Keep both'
            : `Keep all ${['', '', '', 'three', 'four'][unkept.length] ?? unkept.length}`}
        </Button>
      ) : null}
      {found.first ? <p className="text-note font-semibold text-felt">{found.first}</p> : null}
      <div className={`grid gap-3 ${found.plans.length > 1 ? 'lg:grid-cols-3' : ''}`}>
        {found.plans.map((plan) => (
          <OnePlan key={plan.name} plan={plan} onLock={onLock} />
        ))}
      </div>
      {found.short.map((words) => (
        <p key={words} className="border-l-2 border-change pl-3 text-small">
          {words}
        </p>
      ))}
    </div>
  )
}

type OnePlanProps = { plan: PlanSheet; onLock: (moves: readonly Planned[]) => void }

/** Plans that can be kept as sheets, and those that are. */
function useKeeping() {
  const { document, change } = useRoom()
  const isKept = (plan: PlanSheet) =>
    sheetsOf(document).some(
      (sheet) => isSame(sheet.treatments, plan.arrangement.treatments) && sheet.name.startsWith(plan.name),
    )
  const keep = (...plans: readonly PlanSheet[]) =>
    change(plans.length > 1 ? 'keep these plans' : 'keep a plan', (now) =>
      plans.reduce((kept, plan) => withSheet(kept, plan.arrangement, plan.name), now),
    )
  return { isKept, keep }
}

const isSame = (one: unknown, other: unknown) => JSON.stringify(one) === JSON.stringify(other)

function OnePlan({ plan, onLock }: OnePlanProps) {
  const { document, tryOut, trying } = useRoom()
  const { isKept, keep } = useKeeping()
  const { currency } = document.brief
  const [locked, setLocked] = useState<ReadonlySet<number>>(new Set())
  const title = `${plan.name}: ${plan.moves.length} moves`
  const most = Math.max(plan.lacks_before, 0.01)
  return (
    <section className="rounded-xl border border-line bg-paper px-3 py-2 text-small leading-snug">
      <div className="flex flex-wrap items-baseline justify-between gap-x-2">
        <h3 className="text-plain">{plan.name}</h3>
        <p className="text-ink-2">
          {plan.spent > 0 ? `${currency}${plan.spent.toFixed(0)}` : 'free'} · {plan.minutes} min
        </p>
      </div>
      {plan.moves.length === 0 ? (
        <p className="text-ink-2">Nothing within this would help by more than it costs.</p>
      ) : null}
      <ol className="my-1">
        {plan.moves.map((move, i) => (
          <li key={move.title} className="border-t border-line py-1">
            <div className="flex items-start gap-2">
              <span className="w-3.5 shrink-0 text-center font-display font-semibold text-ink-2">{i + 1}</span>
              <div className="min-w-0 flex-1">
                <p>{move.title}</p>
                <div className="mt-0.5 flex items-center gap-2 text-fine text-ink-2">
                  <span
                    className="h-1.5 rounded-full bg-felt"
                    style={{ width: `${Math.max((move.gain / most) * 45, 1.5)}%` }}
                    aria-hidden
                  />
                  {((move.gain / most) * 100).toFixed(0)} % of what the marks lack
                  {move.cost > 0 ? `, ${currency}${move.cost.toFixed(0)}` : ''}
                </div>
              </div>
              <button
                aria-pressed={locked.has(i)}
                aria-label={`Lock: ${move.title}`}
                title="Keep this one and search around it"
                onClick={() => {
                  const next = new Set(locked)
                  if (!next.delete(i)) next.add(i)
                  setLocked(next)
                }}
                className={`min-h-7 shrink-0 rounded-full border px-2 text-fine font-semibold ${locked.has(i) ? 'border-felt bg-felt text-on-felt' : 'border-line-strong text-ink-2 hover:bg-floor'}`}
              >
                {locked.has(i) ? 'Locked' : 'Lock'}
              </button>
            </div>
            {plan.knee === i + 1 && plan.knee_words ? (
              <p className="mt-1 border-t-2 border-dashed border-change pt-0.5 text-fine">{plan.knee_words}</p>
            ) : null}
          </li>
        ))}
      </ol>
      {plan.notes.map((words) => (
        <p key={words} className="mb-1 text-fine text-ink-2">
          {words}
        </p>
      ))}
      <p className="text-ink-2">
        Then: {plan.after.bounce.value?.toFixed(1).replace('-', '−')} dB over the room, longest note{' '}
        {plan.after.boom.value?.toFixed(2)} s
        {plan.after.hush.value === null ? '' : `, noise ${plan.after.hush.value.toFixed(0)} dB under you`}.
      </p>
      {plan.moves.length ? (
        <div className="mt-1.5 flex flex-wrap gap-1.5">
          {trying?.trying?.title === title ? (
            <span className="rounded-full bg-change px-3 py-1 font-semibold text-on-change">Trying</span>
          ) : (
            <Button
              small
              onClick={() => tryOut({ kind: 'plan', title, edits: plan.moves.flatMap((move) => move.edits) })}
            >
              Try
            </Button>
          )}
          {isKept(plan) ? (
            <span className="py-1 text-ink-2">✓ Kept under Sheets</span>
          ) : (
            <Button small look="quiet" onClick={() => keep(plan)}>
              Keep as a sheet
            </Button>
          )}
          {locked.size ? (
            <Button small look="quiet" onClick={() => onLock(plan.moves.filter((_, i) => locked.has(i)))}>
              Search around {locked.size === 1 ? 'it' : `these ${locked.size}`}
            </Button>
          ) : null}
        </div>
      ) : null}
    </section>
  )
}
