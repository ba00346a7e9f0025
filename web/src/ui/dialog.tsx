import { Dialog, DialogBackdrop, DialogPanel, DialogTitle } from '@headlessui/react'
import type { ReactNode } from 'react'
import { Button } from './button'

export function Sheet({
  open,
  onClose,
  title,
  children,
  wide = false,
}: {
  open: boolean
  onClose: () => void
  title: string
  children: ReactNode
  wide?: boolean | 'full'
}) {
  return (
    <Dialog open={open} onClose={onClose} className="relative z-40">
      <DialogBackdrop className="fixed inset-0 bg-black/35" />
      <div className="fixed inset-0 flex items-end justify-center p-3 sm:items-center">
        <DialogPanel
          className={`max-h-[92dvh] w-full overflow-auto rounded-2xl border border-line bg-card p-5 shadow-card ${wide === 'full' ? 'max-w-5xl' : wide ? 'max-w-2xl' : 'max-w-md'}`}
        >
          <div className="mb-3 flex items-baseline justify-between gap-3">
            <DialogTitle className="font-display text-title font-bold">{title}</DialogTitle>
            {wide === 'full' ? (
              <Button small look="quiet" onClick={onClose}>
                Close
              </Button>
            ) : null}
          </div>
          {children}
        </DialogPanel>
      </div>
    </Dialog>
  )
}
