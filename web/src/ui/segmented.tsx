import { Radio, RadioGroup } from '@headlessui/react'

/** A few choices side by side, one of them on. */
export function Segmented<K extends string>({
  label,
  value,
  options,
  onChange,
  small = false,
  columns,
}: {
  label: string
  value: K
  options: readonly { key: K; name: string }[]
  onChange: (key: K) => void
  small?: boolean
  /** More choices than fit side by side stand in so many columns. */
  columns?: 3
}) {
  return (
    <RadioGroup
      value={value}
      onChange={onChange}
      aria-label={label}
      className={`max-w-full overflow-x-auto border border-line-strong bg-card [scrollbar-width:none] ${columns ? 'grid grid-cols-3 rounded-2xl text-center' : 'inline-flex rounded-full'}`}
    >
      {options.map(({ key, name }) => (
        <Radio
          key={key}
          value={key}
          className={`cursor-pointer font-semibold whitespace-nowrap text-ink-2 data-checked:bg-ink data-checked:text-paper not-data-checked:hover:bg-floor focus-visible:outline-offset-[-3px] ${small ? 'px-2.5 py-1 text-small' : 'px-3.5 py-1.5 text-note'}`}
        >
          {name}
        </Radio>
      ))}
    </RadioGroup>
  )
}
