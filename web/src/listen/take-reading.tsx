import { Fragment } from 'react'
import type { Form } from '../api/client'
import { useDesk } from '../rooms/use-desk'
import { useKinds } from '../state/catalogue'
import { NotFiled } from './not-filed'
import { ReadingsSheet } from './readings-sheet'

/** What can be read, of one form or of every kind on the first page, and the place where it is done. */
export function TakeReading({ form = null }: { form?: Form | null }) {
  const { kinds } = useKinds()
  const { open, taking, take, table, close } = useDesk()
  const offered = kinds.filter((k) => (form ? k.form === form : k.shown))
  const brought = kinds.filter((k) => !k.shown)
  return (
    <>
      <section aria-label="Take a reading" data-testid="take-reading">
        <h2 className="mb-1.5 text-head">Take a reading</h2>
        <ul className="grid grid-cols-2 gap-1.5">
          {offered.map((kind) => (
            <li key={kind.key}>
              <button
                onClick={() => take(kind.key)}
                className="h-full w-full rounded-xl border border-line-strong bg-paper px-3 py-1.5 text-left hover:bg-floor"
              >
                <span className="block font-semibold">
                  <span className="sr-only">Read: </span>
                  {kind.name}
                </span>
                <span className="block text-fine leading-tight text-ink-2">{kind.short}</span>
              </button>
            </li>
          ))}
        </ul>
        {form ? null : (
          <p className="mt-1.5 text-small text-ink-2">
            Measured elsewhere?{' '}
            {brought.map((kind, i) => (
              <Fragment key={kind.key}>
                {i ? ' or ' : ''}
                <button
                  className="font-semibold text-ink underline decoration-line-strong underline-offset-2"
                  onClick={() => take(kind.key)}
                >
                  {i ? '' : 'Bring '}
                  {kind.short}
                </button>
              </Fragment>
            ))}
            .
          </p>
        )}
      </section>
      {taking ? null : <NotFiled />}
      {table ? <ReadingsSheet onChoose={(readingId) => open(readingId, true)} onClose={close} /> : null}
    </>
  )
}
