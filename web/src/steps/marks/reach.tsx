import { $api, type Schemas } from '../../api/client'
import { useRoom } from '../../state/room'
import { useSettled } from '../../state/use-settled'
import { Button } from '../../ui/button'
import { Caution, Failed } from '../../ui/notice'

/** Stands, cables, meter and keys; open monitors; an instrument and a mouth at once. */
export function ReachBench() {
  const { ask, enabled } = useSettled()
  const { data: found, error } = $api.useQuery('post', '/api/reach', { body: ask }, { enabled })
  if (error) return <Failed error={error} />
  if (!found) return <div className="h-64 animate-pulse rounded-lg bg-floor" aria-label="Working" />
  return (
    <div data-testid="reach" className="grid grid-cols-2 gap-x-6 gap-y-3 text-small leading-snug max-lg:grid-cols-1">
      <section>
        <h2 className="text-head leading-tight">Does everything reach?</h2>
        <ul>
          {found.stands.map((line) => (
            <li key={line} className="border-t border-line py-0.5">
              {line}
            </li>
          ))}
          {(found.laptop?.words ?? [NO_LAPTOP]).map((line) => (
            <li key={line} className="border-t border-line py-0.5">
              {line}
            </li>
          ))}
        </ul>
        <Caution text={found.cautions.join(' ')} />
      </section>
      <section>
        <h2 className="text-head leading-tight">Singing and playing at once?</h2>
        <p className="text-ink-2">{found.second.words}</p>
        <Nulls patterns={found.second.patterns} />
        <h2 className="mt-2 text-head leading-tight">Monitors on while you record?</h2>
        {found.howl ? (
          <>
            <p className="text-ink-2">{found.howl.words}</p>
            <Caution text={found.howl.caution} />
          </>
        ) : (
          <p className="text-ink-2">No monitors stand here: with closed headphones nothing can howl.</p>
        )}
      </section>
    </div>
  )
}

const NO_LAPTOP = 'No laptop stands here yet: put it in beside, under Exact places, to see cables, meter and keys.'

function Nulls({ patterns }: { patterns: readonly Schemas['PatternNull'][] }) {
  const { tryOut } = useRoom()
  if (!patterns.length) return null
  return (
    <table className="mt-1 w-full">
      <caption className="sr-only">Patterns with their null on the other source</caption>
      <thead>
        <tr className="text-left text-ink-2">
          <th className="font-normal">null on the other</th>
          <th className="pl-3 text-right font-normal">you, dB</th>
          <th className="pl-3 text-right font-normal">over it, dB</th>
          <th>
            <span className="sr-only">Try</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {patterns.slice(0, 3).map((one) => (
          <tr key={one.pattern} className="border-t border-line">
            <th scope="row" className="py-0.5 text-left font-semibold capitalize">
              {one.pattern}
            </th>
            <td className="pl-3 text-right tabular-nums">{one.kept_db.toFixed(1).replace('-', '−')}</td>
            <td className="pl-3 text-right tabular-nums">
              {one.apart_db.toFixed(1)} <span className="text-ink-2">(now {one.apart_now_db.toFixed(1)})</span>
            </td>
            <td className="pl-3 text-right">
              <Button
                small
                onClick={() => tryOut({ kind: 'aim', title: `${one.pattern}, null on the other`, edits: one.edits })}
              >
                Try
              </Button>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
