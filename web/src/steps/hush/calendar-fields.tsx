import { TextField } from '../../ui/fields'
import { useState } from 'react'
import { type Calendar, DAY_LETTERS, readSpans, spansText } from './calendar'

type Kept = { hours: [number, number][]; other_days: { weekdays: number[]; hours: [number, number][] }[] }

const keptOf = (calendar: Calendar): Kept => ({
  hours: (calendar.hours ?? []).map(([a, b]) => [a, b]),
  other_days: (calendar.other_days ?? []).map((d) => ({
    weekdays: [...d.weekdays],
    hours: (d.hours ?? []).map(([a, b]) => [a, b]),
  })),
})

type Props = { calendar: Calendar; always: string; onChange: (calendar: Kept) => void }

/** Hours as people write them, for every day and for weekdays that differ. */
export function CalendarFields({ calendar, always, onChange }: Props) {
  const kept = keptOf(calendar)
  const others = kept.other_days[0]
  const taken = new Set(kept.other_days.flatMap((d) => d.weekdays))
  const toggle = (day: number) => {
    const rest = kept.other_days.map((d) => ({ ...d, weekdays: d.weekdays.filter((w) => w !== day) }))
    const next = taken.has(day)
      ? rest
      : rest.length
        ? rest.map((d, i) => (i === 0 ? { ...d, weekdays: [...d.weekdays, day].sort((a, b) => a - b) } : d))
        : [{ weekdays: [day], hours: [] as [number, number][] }]
    onChange({ ...kept, other_days: next.filter((d) => d.weekdays.length > 0) })
  }
  return (
    <div className="space-y-2">
      <SpansField
        label="Hours, every day"
        spans={kept.hours}
        empty={always}
        onChange={(hours) => onChange({ ...kept, hours })}
      />
      <fieldset>
        <legend className="mb-0.5 text-small text-ink-2">Days that differ</legend>
        <div className="flex gap-1">
          {DAY_LETTERS.map((letters, day) => (
            <button
              key={letters}
              type="button"
              aria-pressed={taken.has(day)}
              onClick={() => toggle(day)}
              className={`min-h-8 flex-1 rounded-lg border text-small font-semibold ${taken.has(day) ? 'border-ink bg-ink text-paper' : 'border-line-strong bg-card hover:bg-floor'}`}
            >
              {letters}
            </button>
          ))}
        </div>
      </fieldset>
      {others ? (
        <SpansField
          label={`Hours on ${others.weekdays.map((d) => DAY_LETTERS[d]).join(', ')}`}
          spans={others.hours}
          empty="not at all"
          onChange={(hours) =>
            onChange({ ...kept, other_days: kept.other_days.map((d, i) => (i === 0 ? { ...d, hours } : d)) })
          }
        />
      ) : null}
    </div>
  )
}

type SpansProps = {
  label: string
  spans: [number, number][]
  empty: string
  onChange: (spans: [number, number][]) => void
}

function SpansField({ label, spans, empty, onChange }: SpansProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const read = typed === null ? null : readSpans(typed)
  const wrong = typed !== null && read === null
  const done = () => {
    if (typed === null || read === null) return
    setTyped(null)
    onChange(read)
  }
  return (
    <div onBlur={done} onKeyDown={(event) => event.key === 'Enter' && done()}>
      <TextField
        label={label}
        value={typed ?? spansText(spans)}
        onChange={setTyped}
        hint={wrong ? 'Write hours as 5:00 to 0:30, more after a comma.' : spans.length || typed ? undefined : empty}
      />
    </div>
  )
}
