import { $api, type Schemas } from '../../api/client'
import { useRoom } from '../../state/room'
import { useSettled } from '../../state/use-settled'
import { Button } from '../../ui/button'

type Aimed = Schemas['AimedAnswer']

/** How turning the head or the microphone trades level, bass, treble and breath. */
export function AimBench() {
  const { ask, enabled } = useSettled()
  const { tryOut } = useRoom()
  const { data: aim } = $api.useQuery('post', '/api/aim', { body: ask }, { enabled })
  if (!aim) return <div className="h-64 animate-pulse rounded-lg bg-floor" aria-label="Working" />
  return (
    <div data-testid="aim" className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-5 gap-y-2 max-lg:grid-cols-1">
      <section>
        <h2 className="text-head leading-tight">How to aim?</h2>
        <p className="text-note leading-snug text-ink-2">{aim.aim_at}</p>
        <Rows caption="Past the microphone" rows={aim.past} />
      </section>
      <section>
        <h2 className="text-head leading-tight">A loud note?</h2>
        <p className="text-note leading-snug text-ink-2">Three ways to take it down, each with its price.</p>
        <Rows caption="Against straight on" rows={aim.loud} />
        <p className="mt-2 text-small leading-snug">{aim.front_words}</p>
        {aim.null ? (
          <p className="mt-1 text-small leading-snug">
            {aim.null.words}{' '}
            {aim.null.under_db >= 0.5 ? (
              <Button
                small
                onClick={() =>
                  tryOut({ kind: 'aim', title: `Null towards ${aim.null!.noise}`, edits: aim.null!.edits })
                }
              >
                Try
              </Button>
            ) : null}
          </p>
        ) : null}
      </section>
    </div>
  )
}

const signed = (db: number) => `${db > 0.05 ? '+' : db < -0.05 ? '−' : ''}${Math.abs(db).toFixed(1)}`

function Rows({ caption, rows }: { caption: string; rows: readonly Aimed[] }) {
  const breath = rows.some((row) => row.puff > 0)
  return (
    <table className="mt-1 w-full text-small">
      <caption className="sr-only">{caption}</caption>
      <thead>
        <tr className="text-left text-ink-2">
          <th className="font-normal">dB against straight on</th>
          {['level', 'bass', 'treble'].map((name) => (
            <th key={name} className="pl-3 text-right font-normal">
              {name}
            </th>
          ))}
          {breath ? <th className="pl-3 text-right font-normal">a hard p</th> : null}
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.name} className="border-t border-line">
            <th scope="row" className="py-0.5 text-left font-semibold">
              {row.name}
            </th>
            {[row.level_db, row.bass_db, row.treble_db].map((db, i) => (
              <td key={i} className="pl-3 text-right tabular-nums">
                {signed(db)}
              </td>
            ))}
            {breath ? (
              <td className="pl-3 text-right">{row.puff > 1 ? 'pops' : row.puff > 0.25 ? 'may pop' : 'stays clean'}</td>
            ) : null}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
