import { useState } from 'react'
import { $api, type Arrangement, type MarkKey } from '../../api/client'
import { figure, ORDER } from '../../marks/scales'
import { useRoom } from '../../state/room'
import { renamed, sheetsOf, tryingSheet, withoutSheet, withPieceOf, withSheet } from '../../state/sheets'
import { withoutTrying } from '../../state/trying'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { TextField } from '../../ui/fields'
import { Failed } from '../../ui/notice'
import { Select } from '../../ui/select'
import { MiniPlan } from './mini-plan'

const MOST = 3

/** Arrangements as sheets of paper: what is built, and what is kept to be weighed against it. */
export function Sheets() {
  const { document, standing, active, trying, change } = useRoom()
  const sheets = sheetsOf(document)
  const [chosen, setChosen] = useState<readonly string[]>([])
  const [comparing, setComparing] = useState(false)
  const toggle = (id: string) =>
    setChosen(chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id].slice(-MOST))
  return (
    <section data-testid="sheets">
      <div className="flex flex-wrap items-center gap-2">
        <h2 className="text-plain">Sheets</h2>
        <Button
          small
          onClick={() => change('keep a sheet', (now) => withSheet(now, active, trying ? active.name : 'A copy'))}
        >
          {trying ? 'Keep what is tried' : 'Branch from what stands'}
        </Button>
        <Button small look="main" disabled={chosen.length < 2} onClick={() => setComparing(true)}>
          Compare {chosen.length > 1 ? chosen.length : ''}
        </Button>
        <p className="text-fine text-ink-2">Mark two or three to hold them side by side.</p>
      </div>
      <ul className="mt-2 flex gap-3 overflow-x-auto pb-1">
        {[standing, ...sheets].map((sheet) => (
          <li
            key={sheet.id}
            className={`w-44 shrink-0 rounded-lg border bg-paper p-2 shadow-card ${sheet.id === standing.id ? 'border-felt' : 'border-line'}`}
          >
            <MiniPlan document={document} arrangement={sheet} />
            <label className="flex items-center gap-1.5 text-note font-semibold">
              <input type="checkbox" checked={chosen.includes(sheet.id)} onChange={() => toggle(sheet.id)} />
              <span className="truncate">{sheet.name || sheet.id}</span>
            </label>
            {sheet.id === standing.id ? (
              <p className="text-fine text-ink-2">As built</p>
            ) : (
              <Kept sheet={sheet} onGone={() => setChosen(chosen.filter((id) => id !== sheet.id))} />
            )}
          </li>
        ))}
      </ul>
      <Sheet open={comparing} onClose={() => setComparing(false)} title="Side by side" wide="full">
        <SideBySide ids={chosen} />
      </Sheet>
    </section>
  )
}

function Kept({ sheet, onGone }: { sheet: Arrangement; onGone: () => void }) {
  const { change } = useRoom()
  const [naming, setNaming] = useState(false)
  return (
    <>
      <div className="-ml-2 flex">
        <Button small look="quiet" onClick={() => change(`try “${sheet.name}”`, (now) => tryingSheet(now, sheet.id))}>
          Try
        </Button>
        <Button small look="quiet" onClick={() => setNaming(true)}>
          Name
        </Button>
        <Button
          small
          look="quiet"
          onClick={() => {
            onGone()
            change('throw a sheet away', (now) => withoutSheet(now, sheet.id))
          }}
        >
          Away
        </Button>
      </div>
      <Sheet open={naming} onClose={() => setNaming(false)} title="What is this sheet called?">
        <TextField
          label="Name"
          value={sheet.name}
          onChange={(name) => change('name a sheet', (now) => renamed(now, sheet.id, name))}
        />
        <div className="mt-4 flex justify-end">
          <Button look="main" onClick={() => setNaming(false)}>
            Done
          </Button>
        </div>
      </Sheet>
    </>
  )
}

const NAMES: Record<MarkKey, string> = {
  bounce: 'Bounce, dB over the room',
  boom: 'Boom, longest note in s',
  hush: 'Hush, noise under you in dB',
  touch: 'Touch, loudest peak in dBFS',
}

/** Two or three arrangements: drawing, marks, decay, low end, what it costs, what hangs. */
function SideBySide({ ids }: { ids: readonly string[] }) {
  const { document } = useRoom()
  const sheets = ids.flatMap((id) => document.arrangements.filter((a) => a.id === id))
  return (
    <div
      className="grid gap-4"
      style={{ gridTemplateColumns: `repeat(${Math.max(sheets.length, 1)}, minmax(0, 1fr))` }}
    >
      {sheets.map((sheet) => (
        <Column key={sheet.id} sheet={sheet} others={sheets.filter((s) => s.id !== sheet.id)} />
      ))}
    </div>
  )
}

function Column({ sheet, others }: { sheet: Arrangement; others: readonly Arrangement[] }) {
  const { id, document, change } = useRoom()
  const ask = { document: withoutTrying(document), arrangement_id: sheet.id, room_id: id }
  const { data: forecast, error } = $api.useQuery(
    'post',
    '/api/forecast',
    { body: { ...ask, to_hz: 300 } },
    { placeholderData: undefined },
  )
  const { data: made } = $api.useQuery('post', '/api/make', { body: ask }, { placeholderData: undefined })
  return (
    <section className="min-w-0 text-small" data-testid={`sheet-${sheet.id}`}>
      <h3 className="mb-1 text-plain">{sheet.name || sheet.id}</h3>
      <MiniPlan document={document} arrangement={sheet} />
      <Failed error={error} />
      <dl className="mt-1">
        {ORDER.map((mark) => {
          const shown = forecast?.marks[mark]
          if (forecast && shown?.value == null) return null
          return (
            <div key={mark} className="flex justify-between gap-2 border-t border-line py-0.5">
              <dt className="text-ink-2">{NAMES[mark]}</dt>
              <dd className="font-semibold tabular-nums">{shown?.value == null ? '–' : figure(mark, shown.value)}</dd>
            </div>
          )
        })}
        <Row name="Fades in the middle" value={forecast ? `${forecast.decay_middle.value_s.toFixed(2)} s` : '–'} />
        <Row
          name="Swing of the low end"
          value={forecast ? `${forecast.marks.boom.swing_db?.toFixed(0) ?? '–'} dB` : '–'}
        />
        <Row
          name="To buy and make"
          value={made ? `${made.currency}${made.cost.toFixed(0)}, ${(made.minutes / 60).toFixed(1)} h` : '–'}
        />
      </dl>
      {forecast ? <LowEnd forecast={forecast} /> : null}
      <ul className="mt-1">
        {sheet.treatments.map((t, i) => (
          <li key={i} className="flex items-center justify-between gap-2 border-t border-line py-0.5">
            <span className="truncate">
              {t.label ?? t.kind} <span className="text-ink-2">{t.surface.replace('-', ' ')}</span>
            </span>
            {others.length ? (
              <Select
                bare
                label={`Copy ${t.label ?? t.kind} to`}
                value=""
                options={[{ key: '', name: 'Copy to' }, ...others.map((o) => ({ key: o.id, name: o.name || o.id }))]}
                onChange={(to) => (to ? change('copy a piece', (now) => withPieceOf(now, sheet.id, i, to)) : undefined)}
              />
            ) : null}
          </li>
        ))}
      </ul>
    </section>
  )
}

const Row = ({ name, value }: { name: string; value: string }) => (
  <div className="flex justify-between gap-2 border-t border-line py-0.5">
    <dt className="text-ink-2">{name}</dt>
    <dd className="font-semibold tabular-nums">{value}</dd>
  </div>
)

const [W, H] = [220, 60]

/** The low end at the microphone as a line, 20 to 300 Hz, 50 dB high. */
function LowEnd({ forecast }: { forecast: { response: { f_hz: number[]; level_db: (number | null)[] } } }) {
  const { f_hz, level_db } = forecast.response
  const top = Math.max(...level_db.map((db) => db ?? -200))
  const points = f_hz.map((f, i) => {
    const x = (Math.log2(f / 20) / Math.log2(300 / 20)) * W
    return `${x.toFixed(1)} ${Math.min(((top - (level_db[i] ?? top - 50)) / 50) * H, H).toFixed(1)}`
  })
  return (
    <svg
      viewBox={`0 0 ${W} ${H + 12}`}
      className="mt-1 w-full"
      role="img"
      aria-label="Low end at the microphone, 20 to 300 Hz"
    >
      <path d={`M0 ${H}H${W}`} stroke="var(--line-strong)" />
      <path d={`M${points.join('L')}`} fill="none" stroke="var(--boom)" strokeWidth={1.8} strokeLinejoin="round" />
      <text x={0} y={H + 11} fontSize={9} style={{ fill: 'var(--ink-2)' }}>
        20 Hz
      </text>
      <text x={W} y={H + 11} fontSize={9} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
        300 Hz
      </text>
    </svg>
  )
}
