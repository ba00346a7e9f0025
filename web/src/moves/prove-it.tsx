import { useQuery } from '@tanstack/react-query'
import { roomQueries } from '../api/queries'
import { useDesk } from '../rooms/use-desk'
import { useKinds } from '../state/catalogue'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'

/** The move that was done last, while nothing has proved it: the reading that would show it best. */
export function ProveIt() {
  const { id, trying } = useRoom()
  const { take } = useDesk()
  const { kindOf } = useKinds()
  const { data: ledger = [] } = useQuery(roomQueries.ledger(id))
  const last = ledger.find((entry) => entry.kind === 'move')
  if (trying || !last) return null
  if (!last.prove_with && last.proof?.some((row) => row.outcome === 'proved'))
    return (
      <p className="my-1.5 border-l-2 border-felt pl-3 text-note" data-testid="proved">
        Proved: <strong>{last.title}</strong>. Next is what helps most now: the first below.
      </p>
    )
  if (!last.prove_with) return null
  const kind = kindOf(last.prove_with)
  return (
    <div className="my-1.5 rounded-xl border border-felt bg-card px-3 py-2 text-note" data-testid="prove-it">
      <p>
        Done: <strong>{last.title}</strong>. {kind.name} shows best what it did; until then it is a promise.
      </p>
      <Button small look="main" className="mt-1.5" onClick={() => take(kind.key)}>
        Prove it: {kind.name.toLowerCase()}
      </Button>
    </div>
  )
}
