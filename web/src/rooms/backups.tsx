import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react'
import { useState } from 'react'
import { $api, type Schemas } from '../api/client'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'
import { Failed } from '../ui/notice'

/** Copies of all that is written down; one is put back from here, and what stood before is kept. */
export function Backups({ hasRooms }: { hasRooms: boolean }) {
  const found = $api.useQuery('get', '/api/backups')
  const make = $api.useMutation('post', '/api/backups', { onSuccess: () => found.refetch() })
  const [chosen, setChosen] = useState<Schemas['BackupAnswer'] | null>(null)
  // an empty folder has nothing to keep; one that lost its rooms has something to put back
  if (!hasRooms && !found.data?.length) return null
  return (
    <Disclosure as="section" className="mt-4">
      <DisclosureButton className="text-note font-semibold text-ink-2 underline decoration-line-strong underline-offset-2 hover:text-ink">
        Backups ({found.data?.length ?? 0})
      </DisclosureButton>
      <DisclosurePanel className="mt-1 max-w-xl">
        <p className="text-note text-ink-2">
          All rooms, readings and notes, without the sounds, which are never deleted with them. The newest five are
          kept; one is made before each new version.
        </p>
        <ul className="my-1">
          {(found.data ?? []).map((one) => (
            <li key={one.name} className="flex items-center justify-between gap-2 border-b border-line py-1">
              <span className="text-note">
                {whenOf(one.made_at)}: {holds(one)}
              </span>
              {typeof one.rooms !== 'number' ? null : (
                <Button
                  small
                  onClick={() => setChosen(one)}
                  aria-label={`Put back the backup of ${whenOf(one.made_at)}`}
                >
                  Put back
                </Button>
              )}
            </li>
          ))}
        </ul>
        <Button small onClick={() => make.mutate({})} disabled={make.isPending}>
          Back up now
        </Button>
        <Failed error={make.error} />
      </DisclosurePanel>
      {chosen ? <PutBack backup={chosen} onClose={() => setChosen(null)} /> : null}
    </Disclosure>
  )
}

function PutBack({ backup, onClose }: { backup: Schemas['BackupAnswer']; onClose: () => void }) {
  const put = $api.useMutation('post', '/api/backups/{name}/restore')
  const back = put.data
  return (
    <Sheet
      open
      onClose={back ? () => location.reload() : onClose}
      title={back ? 'It is put back.' : 'Put this backup back?'}
    >
      {back ? (
        <p>
          {holds(back)}.{' '}
          {back.missing.length > 0
            ? `Of ${counted(back.missing.length, 'reading')} the sound is not here any more. `
            : ''}
          What stood before is a backup of its own, and lies in the data folder as {back.former_kept_as}.
        </p>
      ) : (
        <p>
          The folder will be as it was on {whenOf(backup.made_at)}: {holds(backup)}. What stands now is backed up first,
          so that you can go back to it. Other windows should be closed.
        </p>
      )}
      <Failed error={put.error} />
      <div className="mt-4 flex gap-2.5">
        {back ? (
          <Button look="main" onClick={() => location.reload()}>
            Look at it
          </Button>
        ) : (
          <>
            <Button
              look="main"
              disabled={put.isPending}
              onClick={() => put.mutate({ params: { path: { name: backup.name } } })}
            >
              Put it back
            </Button>
            <Button onClick={onClose}>Leave it</Button>
          </>
        )}
      </div>
    </Sheet>
  )
}

const whenOf = (at: string) => new Date(at).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })

const counted = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'}`

function holds({ rooms, readings }: { rooms?: number | null; readings?: number | null }): string {
  if (typeof rooms !== 'number' || typeof readings !== 'number') return 'cannot be read'
  return `${counted(rooms, 'room')}, ${counted(readings, 'reading')}`
}
