import { $api } from '../../api/client'
import { useRoom } from '../../state/room'
import { useSettled } from '../../state/use-settled'
import { Button } from '../../ui/button'
import { Caution, Failed } from '../../ui/notice'

/** Screens that could stand here, best first, with both effects and what to beware of. */
export function ScreensBench() {
  const { tryOut, edit, active } = useRoom()
  const { ask, enabled } = useSettled()
  const { data: found, error } = $api.useQuery('post', '/api/screens', { body: ask }, { enabled })
  if (error) return <Failed error={error} />
  return (
    <div data-testid="screens">
      <h2 className="text-head leading-tight">Would a screen help here?</h2>
      <p className="text-note leading-snug text-ink-2">
        A screen takes part of what you feed the room and part of what the room feeds the microphone; its own return
        colours.
      </p>
      {active.screens.length ? (
        <p className="mt-1 text-note">
          {active.screens.length === 1 ? 'One screen stands here.' : `${active.screens.length} screens stand here.`}{' '}
          <Button
            small
            onClick={() =>
              edit(
                ...active.screens.map((_, i) => ({
                  do: 'take-screen' as const,
                  number: active.screens.length - 1 - i,
                })),
              )
            }
          >
            Take away
          </Button>
        </p>
      ) : null}
      {found ? (
        <ol className="mt-1 grid grid-cols-2 gap-x-6 max-lg:grid-cols-1">
          {found.choices.map((choice) => (
            <li key={choice.kind} className="flex items-start gap-3 border-t border-line py-1.5">
              <div className="min-w-0 flex-1 text-small leading-snug">
                <p className="font-semibold">{choice.name}</p>
                <p className="text-ink-2">{choice.words}</p>
                {choice.cautions.length ? <Caution text={choice.cautions.join(' ')} /> : null}
              </div>
              <Button small onClick={() => tryOut({ kind: 'screen', title: choice.name, edits: choice.edits })}>
                Try
              </Button>
            </li>
          ))}
        </ol>
      ) : (
        <div className="mt-2 h-52 animate-pulse rounded-lg bg-floor" aria-label="Working" />
      )}
      {found?.no_room_for.length ? (
        <p className="mt-1 text-small text-ink-2">No room here for: {found.no_room_for.join('; ').toLowerCase()}.</p>
      ) : null}
    </div>
  )
}
