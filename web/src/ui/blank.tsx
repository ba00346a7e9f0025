import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react'
import { useState } from 'react'
import type { Option } from './select'

const BLANK =
  'inline-flex items-baseline gap-1 rounded-md border-b-2 border-felt bg-felt-soft/60 px-1.5 font-semibold text-ink hover:bg-felt-soft'

type Props<K extends string> = {
  label: string
  value: K
  options: readonly Option[]
  onChange: (key: K) => void
  /** What stands in the sentence for a choice; its name in small letters when left out. */
  words?: Partial<Record<K, string>>
}

/** A blank in a sentence, filled from a list. */
export function Blank<K extends string>({ label, value, options, onChange, words }: Props<K>) {
  const chosen = options.find((o) => o.key === value)
  const says = words?.[value] ?? chosen?.name.toLowerCase() ?? value
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton className={BLANK} aria-label={`${label}: ${says}`}>
        {says}
        <span aria-hidden className="text-[0.8em] text-ink-2">
          ▾
        </span>
      </ListboxButton>
      <ListboxOptions
        anchor={{ to: 'bottom start', gap: 4 }}
        className="z-50 max-h-80! w-64 overflow-auto rounded-xl border border-line bg-card p-1 text-note shadow-card"
      >
        {options.map((option) => (
          <ListboxOption
            key={option.key}
            value={option.key}
            className="cursor-pointer rounded-lg px-2.5 py-1.5 data-focus:bg-felt-soft data-selected:font-semibold"
          >
            <span className="block">{option.name}</span>
            {option.hint ? <span className="block text-fine font-normal text-ink-2">{option.hint}</span> : null}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </Listbox>
  )
}

type FigureProps = {
  label: string
  text: string
  wide?: number
  read: (text: string) => boolean | Promise<boolean>
  refused: string
}

/** A blank in a sentence, filled by typing; what cannot be meant is said, and stays to be mended. */
export function BlankFigure({ label, text, wide = 5, read, refused }: FigureProps) {
  const [typed, setTyped] = useState<string | null>(null)
  const [wrong, setWrong] = useState(false)
  const done = async () => {
    if (typed === null) return
    const fine = await read(typed)
    setWrong(!fine)
    if (fine) setTyped(null)
  }
  return (
    <span className="inline-flex flex-col align-baseline">
      <input
        aria-label={label}
        aria-invalid={wrong}
        value={typed ?? text}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => void done()}
        onKeyDown={(e) => e.key === 'Enter' && void done()}
        style={{ width: `${wide}ch` }}
        className={`${BLANK} box-content text-center`}
      />
      {wrong ? (
        <span role="alert" className="text-fine font-semibold text-bounce">
          {refused}
        </span>
      ) : null}
    </span>
  )
}
