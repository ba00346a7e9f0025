import { type KeyboardEvent, useEffect, useId, useState } from 'react'
import { inWords } from '../api/client'
import { readLength } from '../api/queries'
import { lengthText, type Units, useUnits } from '../state/units'

const BOX = 'min-h-9 w-full rounded-lg border bg-card px-2.5 text-note tabular-nums'

type Frame = { label: string; trouble: string | null; hint?: string | undefined }

function useDraft(shown: string) {
  const [draft, setDraft] = useState<string | null>(null)
  useEffect(() => setDraft(null), [shown])
  return [draft ?? shown, setDraft, draft] as const
}

function Framed({
  label,
  trouble,
  hint,
  children,
}: Frame & { children: (ids: { id: string; describedBy: string | undefined }) => React.ReactNode }) {
  const id = useId()
  return (
    <div className="min-w-0">
      <label htmlFor={id} className="mb-0.5 block text-small text-ink-2">
        {label}
      </label>
      {children({ id, describedBy: trouble || hint ? `${id}-say` : undefined })}
      {trouble || hint ? (
        <p
          id={`${id}-say`}
          role={trouble ? 'alert' : undefined}
          className={`mt-0.5 text-fine ${trouble ? 'font-semibold text-bounce' : 'text-ink-2'}`}
        >
          {trouble ?? hint}
        </p>
      ) : null}
    </div>
  )
}

const onEnter = (act: () => void) => (event: KeyboardEvent<HTMLInputElement>) => {
  if (event.key === 'Enter') act()
}

type LengthProps = {
  label: string
  metres: number
  onChange: (metres: number) => void
  /** Says why a length cannot be, or null when it can. */
  check?: (metres: number) => string | null
}

/** A length as people type it; the server reads it, so page and command line agree on `11' 10 1/2"`. */
export function LengthField({ label, metres, onChange, check }: LengthProps) {
  const units = useUnits()
  const [text, setText, draft] = useDraft(lengthText(metres, units))
  const [trouble, setTrouble] = useState<string | null>(null)
  const [asks, setAsks] = useState(false)
  const commit = async (said = draft) => {
    if (said === null) return
    setAsks(isBare(said, units))
    if (isBare(said, units)) return setTrouble(null)
    try {
      // a plain one needs no question: leaving the page right after typing must not lose it
      const read = plainMetres(said, units) ?? (await readLength(said, label.toLowerCase(), units))
      const refused = check?.(read) ?? null
      setTrouble(refused)
      if (refused === null) {
        setText(null)
        onChange(read)
      }
    } catch (error) {
      const { title, cure } = inWords(error)
      setTrouble(`${title} ${cure}`)
    }
  }
  return (
    <Framed label={label} trouble={trouble}>
      {({ id, describedBy }) => (
        <>
          <input
            id={id}
            aria-describedby={describedBy}
            aria-invalid={trouble !== null || asks}
            value={text}
            inputMode="text"
            autoComplete="off"
            onChange={(e) => {
              setText(e.target.value)
              setAsks(false)
            }}
            onBlur={() => void commit()}
            onKeyDown={onEnter(() => void commit())}
            className={`${BOX} ${trouble ? 'border-bounce' : asks ? 'border-change' : 'border-line-strong'}`}
          />
          {asks ? (
            <WhichUnit
              text={text}
              onSay={(said) => {
                setText(said)
                void commit(said)
              }}
            />
          ) : null}
        </>
      )}
    </Framed>
  )
}

/** Metres as most people type them on a metric tape, null for everything that the server should read. */
export function plainMetres(text: string, units: Units): number | null {
  const found = /^\s*(\d{1,2}(?:[.,]\d{1,4})?)\s*m?\s*$/.exec(text)
  const metres = found ? Number(found[1]!.replace(',', '.')) : NaN
  return units === 'metric' && metres > 0 && metres < 20 ? metres : null
}

/** Whether a length needs to be asked about: a bare number of somebody who thinks in feet. */
export const isBare = (text: string, units: Units) => units === 'imperial' && /^\s*\d+(?:[.,]\d+)?\s*$/.test(text)

/** Which unit was meant: the likeliest first. */
export function WhichUnit({ text, onSay }: { text: string; onSay: (text: string) => void }) {
  const plain = text.trim()
  const feetFirst = Number(plain.replace(',', '.')) < 30
  return (
    <span role="group" aria-label={`What is ${plain}?`} className="mt-1 flex flex-wrap items-center gap-1">
      {(feetFirst ? ['ft', 'in', 'm'] : ['in', 'ft', 'm']).map((unit) => (
        <button
          key={unit}
          type="button"
          onMouseDown={(e) => e.preventDefault()}
          onClick={() => onSay(`${plain} ${unit}`)}
          className="min-h-7 rounded-full border border-change px-2 text-small font-semibold hover:bg-floor"
        >
          {plain} {unit}
        </button>
      ))}
    </span>
  )
}

type NumberProps = {
  label: string
  value: number
  unit: string
  low: number
  high: number
  digits?: number
  onChange: (value: number) => void
}

export function NumberField({ label, value, unit, low, high, digits = 0, onChange }: NumberProps) {
  const [text, setText, draft] = useDraft(value.toFixed(digits))
  const [trouble, setTrouble] = useState<string | null>(null)
  const commit = () => {
    if (draft === null) return
    const read = Number(draft.replace(',', '.').replace(unit, '').replace('−', '-').trim())
    if (!(read >= low && read <= high)) {
      setTrouble(`Give a number from ${low} to ${high} ${unit}.`)
      return
    }
    setTrouble(null)
    setText(null)
    onChange(read)
  }
  return (
    <Framed label={unit ? `${label} (${unit})` : label} trouble={trouble}>
      {({ id, describedBy }) => (
        <input
          id={id}
          aria-describedby={describedBy}
          aria-invalid={trouble !== null}
          value={text}
          inputMode="decimal"
          autoComplete="off"
          onChange={(e) => setText(e.target.value)}
          onBlur={commit}
          onKeyDown={onEnter(commit)}
          className={`${BOX} ${trouble ? 'border-bounce' : 'border-line-strong'}`}
        />
      )}
    </Framed>
  )
}

export function TextField({
  label,
  value,
  onChange,
  hint,
}: {
  label: string
  value: string
  onChange: (text: string) => void
  hint?: string | undefined
}) {
  return (
    <Framed label={label} trouble={null} hint={hint}>
      {({ id, describedBy }) => (
        <input
          id={id}
          aria-describedby={describedBy}
          value={value}
          onChange={(e) => onChange(e.target.value)}
          className={`${BOX} border-line-strong`}
          autoComplete="off"
        />
      )}
    </Framed>
  )
}

/** A text that counts once its field is left, or at Enter: not letter by letter. */
export function SaidField({ value, onChange, ...rest }: Parameters<typeof TextField>[0]) {
  const [text, setText, draft] = useDraft(value)
  const commit = () => {
    if (draft !== null && draft !== value) onChange(draft)
  }
  return (
    <div onBlur={commit} onKeyDown={(e) => e.key === 'Enter' && commit()}>
      <TextField {...rest} value={text} onChange={setText} />
    </div>
  )
}

export function Check({
  label,
  checked,
  onChange,
}: {
  label: string
  checked: boolean
  onChange: (on: boolean) => void
}) {
  return (
    <label className="flex min-h-9 cursor-pointer items-center gap-2.5 text-note">
      <input
        type="checkbox"
        checked={checked}
        onChange={(e) => onChange(e.target.checked)}
        className="size-4.5 accent-[var(--felt)]"
      />
      {label}
    </label>
  )
}

const two = (value: number) => String(value).padStart(2, '0')

/** An hour of the day as a clock shows it; hours as a number inside, 9.5 for half past nine. */
export function ClockField({
  label,
  hour,
  onChange,
}: {
  label: string
  hour: number
  onChange: (hour: number) => void
}) {
  const minutes = Math.round(hour * 60)
  return (
    <Framed label={label} trouble={null}>
      {({ id }) => (
        <input
          id={id}
          type="time"
          value={`${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`}
          onChange={(e) => {
            const [h, m] = e.target.value.split(':').map(Number)
            if (h !== undefined && m !== undefined && Number.isFinite(h + m)) onChange(h + m / 60)
          }}
          className={`${BOX} border-line-strong`}
        />
      )}
    </Framed>
  )
}
