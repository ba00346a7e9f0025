import { useState } from 'react'
import { $api, type Schemas } from '../../api/client'
import { useRoom } from '../../state/room'
import { lengthText, useUnits } from '../../state/units'
import { useSettled } from '../../state/use-settled'
import { Button } from '../../ui/button'
import { Failed } from '../../ui/notice'

type Best = Schemas['BestListening']

/** What the chair hears of the monitors, what cancels, and the best place along each wall. */
export function ListeningBench() {
  const [search, setSearch] = useState<'none' | 'line' | 'free'>('none')
  const { ask, enabled } = useSettled()
  const {
    data: found,
    isFetching,
    error,
  } = $api.useQuery(
    'post',
    '/api/listening',
    { body: { ...ask, search: search !== 'none', free: search === 'free' } },
    { enabled },
  )
  if (error) return <Failed error={error} />
  if (!found) return <div className="h-64 animate-pulse rounded-lg bg-floor" aria-label="Working" />
  return (
    <div data-testid="listening" className="space-y-2">
      <div className="flex items-start justify-between gap-3">
        <div>
          <h2 className="text-head leading-tight">Where to listen?</h2>
          <p className="text-note leading-snug text-ink-2">{found.sentence}</p>
        </div>
        {search === 'none' ? (
          <Button small look="main" onClick={() => setSearch('line')}>
            Search every wall
          </Button>
        ) : search === 'line' && found.walls.length ? (
          <Button small onClick={() => setSearch('free')}>
            Off the middle, too
          </Button>
        ) : null}
      </div>
      {found.triangle?.words.map((words) => (
        <p key={words} className="border-l-2 border-change pl-3 text-small">
          {words}
        </p>
      ))}
      <div className="grid grid-cols-2 gap-5 max-lg:grid-cols-1">
        {found.cancellations.length ? <Cancels of={found.cancellations} /> : null}
        {found.walls.length ? (
          <Walls walls={found.walls} />
        ) : search !== 'none' && isFetching ? (
          <p role="status">Trying every wall</p>
        ) : null}
      </div>
    </div>
  )
}

/** The first notch that each boundary cuts, lowest first: both monitors' within 3 Hz are one. */
function Cancels({ of }: { of: readonly Schemas['CancellationAnswer'][] }) {
  const shown = of.filter((c, i) => !of.slice(0, i).some((o) => o.where === c.where && Math.abs(o.f_hz - c.f_hz) < 3))
  return (
    <section>
      <h3 className="text-plain">What cancels at the chair</h3>
      <ul className="text-small">
        {shown.slice(0, 7).map((c) => (
          <li key={`${c.where}${c.f_hz}`} className="flex justify-between gap-3 border-t border-line py-0.5">
            <span>{c.where}</span>
            <span className="whitespace-nowrap text-ink-2">
              {c.f_hz.toFixed(0)} Hz, {c.depth_db.toFixed(0)} dB deep
            </span>
          </li>
        ))}
      </ul>
    </section>
  )
}

function Walls({ walls }: { walls: readonly Best[] }) {
  const { tryOut } = useRoom()
  const units = useUnits()
  return (
    <section>
      <h3 className="text-plain">The best along each wall</h3>
      <ol className="text-small">
        {walls.map((best) => (
          <li key={best.wall} className="flex items-center justify-between gap-3 border-t border-line py-1">
            <span>
              <strong className="font-semibold">Look at {best.wall}</strong> ({lengthText(best.wall_m, units)}): swing{' '}
              {best.swing_db.toFixed(0)} dB, first return {best.early_db.toFixed(0).replace('-', '−')} dB
            </span>
            <Button
              small
              onClick={() => tryOut({ kind: 'listening', title: `Listen looking at ${best.wall}`, edits: best.edits })}
            >
              Try
            </Button>
          </li>
        ))}
      </ol>
      <p className="mt-1 text-small text-ink-2">
        Keep monitors down while a microphone is open, and cables out of the way you walk.
      </p>
    </section>
  )
}
