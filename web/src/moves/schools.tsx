import { $api } from '../api/client'
import { useSettled } from '../state/use-settled'
import { Failed } from '../ui/notice'

/** What practitioners disagree on, as cards: both sides computed in this room. */
export function SchoolsBench({ about = 'places' }: { about?: 'places' | 'treatment' }) {
  const { ask, enabled } = useSettled()
  const { data: found, error } = $api.useQuery('post', '/api/schools', { body: { ...ask, about } }, { enabled })
  if (error) return <Failed error={error} />
  if (!found) return <div className="h-64 animate-pulse rounded-lg bg-floor" aria-label="Working" />
  return (
    <div data-testid="schools">
      <h2 className="mb-1 text-head leading-tight">Two schools, both worked out in this room</h2>
      <ul className="grid grid-cols-2 gap-2.5 max-lg:grid-cols-1">
        {found.schools.map((school) => (
          <li key={school.key} className="rounded-lg border border-line bg-paper px-3 py-2 text-small leading-snug">
            <h3 className="text-plain">{school.question}</h3>
            <dl className="my-1 space-y-0.5">
              {school.sides.map((side) => (
                <div
                  key={side.key}
                  className={side.wins ? 'border-l-3 border-felt pl-2' : 'border-l-3 border-transparent pl-2'}
                >
                  <dt className="inline font-semibold">{side.name}. </dt>
                  <dd className="inline text-ink-2">{side.gives}</dd>
                </div>
              ))}
            </dl>
            <p className={school.too_close ? 'text-ink-2' : 'font-semibold text-felt'}>{school.verdict}</p>
          </li>
        ))}
      </ul>
    </div>
  )
}
