import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react'
import { Button } from './button'

/** What was put aside and can be taken out again. Shown only when there is something in it. */
export function Bin({
  things,
  onTakeOut,
}: {
  things: readonly { id: string; name: string }[]
  onTakeOut: (id: string) => void
}) {
  if (things.length === 0) return null
  return (
    <Disclosure as="section" className="mt-4">
      <DisclosureButton className="text-note font-semibold text-ink-2 underline decoration-line-strong underline-offset-2 hover:text-ink">
        In the bin ({things.length})
      </DisclosureButton>
      <DisclosurePanel as="ul" className="mt-1">
        {things.map((thing) => (
          <li
            key={thing.id}
            className="flex items-center justify-between gap-2 border-b border-line py-1 last:border-0"
          >
            <span className="min-w-0 truncate text-note">{thing.name}</span>
            <Button small onClick={() => onTakeOut(thing.id)} aria-label={`Take ${thing.name} out of the bin`}>
              Take out
            </Button>
          </li>
        ))}
      </DisclosurePanel>
    </Disclosure>
  )
}
