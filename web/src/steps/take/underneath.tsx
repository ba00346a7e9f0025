import { $api, inWords, type Schemas } from '../../api/client'
import { ofReading } from '../../api/queries'

/** What lies in the take's pauses against the room's silence at the same gain: whether something was on. */
export function Underneath({ take }: { take: string }) {
  const found = $api.useQuery('get', '/api/readings/{reading_id}/underneath', ofReading(take))
  return (
    <section className="mt-3 border-t border-line pt-2.5" data-testid="underneath">
      <h3 className="text-head leading-tight">Is there more under you than in your silence?</h3>
      <p role="status" className="text-note">
        {wordsOf(found)}
        {found.data ? <span className="text-ink-2"> The silence: {found.data.when}.</span> : null}
      </p>
    </section>
  )
}

type Found = { error: unknown; isPending: boolean; data?: Schemas['UnderneathAnswer'] | null }

function wordsOf({ error, isPending, data }: Found): string {
  if (error) return inWords(error).title
  if (isPending) return 'Holding the pauses against the silence'
  return (
    data?.text ??
    'No silence by this input and gain within half a day: record ten seconds of it, and what was on during the take is told.'
  )
}
