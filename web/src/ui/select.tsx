import { Field, Label, Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react'

export type Option = { key: string; name: string; group?: string; hint?: string }

type Props = {
  label: string
  value: string
  options: Option[]
  onChange: (key: string) => void
  /** Said to screen readers only: what it does is plain from where it stands. */
  bare?: boolean
}

/** A listbox with groups and a hint under each choice. */
export function Select({ label, value, options, onChange, bare = false }: Props) {
  const chosen = options.find((o) => o.key === value)
  return (
    <Field className="min-w-0">
      <Label className={bare ? 'sr-only' : 'mb-0.5 block text-small text-ink-2'}>{label}</Label>
      <Listbox value={value} onChange={onChange}>
        <ListboxButton className="flex min-h-9 w-full items-center justify-between gap-2 rounded-lg border border-line-strong bg-card px-2.5 text-left text-note">
          <span className="truncate">{chosen?.name ?? (value || 'Choose')}</span>
          <span aria-hidden className="text-ink-2">
            ▾
          </span>
        </ListboxButton>
        <ListboxOptions
          anchor={{ to: 'bottom start', gap: 4 }}
          className="z-50 max-h-80! w-[max(var(--button-width),15rem)] overflow-auto rounded-xl border border-line bg-card p-1 shadow-card"
        >
          {options.map((option, i) => (
            <div key={option.key}>
              {option.group && option.group !== options[i - 1]?.group ? (
                <p className="px-2.5 pt-2 pb-0.5 text-fine font-semibold text-ink-2">{option.group}</p>
              ) : null}
              <ListboxOption
                value={option.key}
                className="cursor-pointer rounded-lg px-2.5 py-1.5 data-focus:bg-felt-soft data-selected:font-semibold"
              >
                <span className="block text-note">{option.name}</span>
                {option.hint ? <span className="block text-fine font-normal text-ink-2">{option.hint}</span> : null}
              </ListboxOption>
            </div>
          ))}
        </ListboxOptions>
      </Listbox>
    </Field>
  )
}
