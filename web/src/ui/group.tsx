import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react'
import type { ReactNode } from 'react'

/** A part of a panel that opens under its title. */
export function Group({ title, open = false, children }: { title: string; open?: boolean; children: ReactNode }) {
  return (
    <Disclosure defaultOpen={open} as="div" className="border-t border-line pt-2">
      <DisclosureButton className="group flex w-full items-center justify-between text-left font-display font-semibold">
        {title}
        <span aria-hidden className="text-ink-2 transition group-data-open:rotate-180">
          ▾
        </span>
      </DisclosureButton>
      <DisclosurePanel className="pt-2">{children}</DisclosurePanel>
    </Disclosure>
  )
}
