import { useWidth } from '../../plots/use-width'
import type { Schemas } from '../../api/client'
import { useCatalogue } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { useFiled } from '../../state/use-filed'
import { Button } from '../../ui/button'
import { clock } from '../../ui/clock'
import { Notice } from '../../ui/notice'
import { CalendarFields } from './calendar-fields'

const LEFT = 40
const ROW = 21

/** The week: a felt block for each hour, as high as the chance; hours in which playing is not allowed are struck through. */
export function WeekBench({ hours }: { hours: Schemas['HoursAnswer'] | undefined }) {
  const { document, active, change, edit } = useRoom()
  const { days } = useCatalogue()
  const { box, w } = useWidth()
  const { brief } = document
  const cell = (w - LEFT) / 24
  const H = 7 * ROW + 18
  const chosen = (day: number, hour: number) =>
    (active.weekday ?? 0) === day && active.hour !== null && Math.floor(active.hour ?? -1) === hour
  const { keep, trouble } = useFiled()
  return (
    <div className="grid gap-4 pb-3 lg:grid-cols-[minmax(0,1fr)_17rem]" data-testid="week-bench">
      <div>
        <h3 className="text-head leading-tight">When does a take of {brief.piece_min} minutes stay in peace?</h3>
        <p className="text-note text-ink-2">{hours?.words ?? 'Working it out'}</p>
        <div ref={box} className="mt-1.5">
          <svg viewBox={`0 0 ${w} ${H}`} width={w} height={H} role="group" aria-label="Chance by weekday and hour">
            {days.map((name, day) => (
              <text key={name} x={0} y={day * ROW + 15} fontSize={12} fontWeight={600}>
                {name.slice(0, 3)}
              </text>
            ))}
            {[0, 3, 6, 9, 12, 15, 18, 21].map((h) => (
              <text key={h} x={LEFT + h * cell} y={H - 3} fontSize={11.5} style={{ fill: 'var(--ink-2)' }}>
                {String(h).padStart(2, '0')}
              </text>
            ))}
            {(hours?.hours ?? []).map((h) => {
              const [x0, y0] = [LEFT + h.hour * cell, h.weekday * ROW]
              const high = (ROW - 5) * (h.chance ?? 0)
              const said = `${days[h.weekday]} ${clock(h.hour)}: ${words(h)}`
              return (
                <g
                  key={`${h.weekday}-${h.hour}`}
                  role="button"
                  tabIndex={-1}
                  aria-label={said}
                  style={{ cursor: 'pointer' }}
                  onClick={() =>
                    edit({ do: 'set-weekday', weekday: h.weekday }, { do: 'set-hour', hour: h.hour + 0.5 })
                  }
                >
                  <title>{said}</title>
                  <rect x={x0 + 0.5} y={y0} width={cell - 1} height={ROW - 3} fill="var(--floor)" opacity={0.6} />
                  {h.chance === null ? (
                    <text x={x0 + cell / 2} y={y0 + 13} fontSize={11} textAnchor="middle">
                      ?
                    </text>
                  ) : (
                    <rect
                      x={x0 + 1}
                      y={y0 + ROW - 4 - high}
                      width={cell - 2}
                      height={high}
                      fill="var(--felt)"
                      opacity={h.allowed ? 0.85 : 0.3}
                    />
                  )}
                  {h.allowed ? null : (
                    <path
                      d={`M${x0 + 2} ${y0 + ROW - 5}L${x0 + cell - 2} ${y0 + 2}`}
                      stroke="var(--ink-2)"
                      strokeWidth={0.9}
                    />
                  )}
                  {chosen(h.weekday, h.hour) ? (
                    <rect
                      x={x0 + 0.5}
                      y={y0 - 0.5}
                      width={cell - 1}
                      height={ROW - 2}
                      fill="none"
                      stroke="var(--change)"
                      strokeWidth={2}
                    />
                  ) : null}
                </g>
              )
            })}
          </svg>
        </div>
        <p className="text-fine text-ink-2">
          Height is the chance; struck through: you may not play then. Press an hour to record at it.{' '}
          {hours?.log
            ? `Heard for ${(hours.log.seconds / 3600).toFixed(1)} h in ${hours.log.nights} night${hours.log.nights === 1 ? '' : 's'}${hours.flags.includes('too_little') ? ': too little to say, so this is from what is noted' : ''}.`
            : 'From what is noted; watch some nights to know.'}
        </p>
        <div className="mt-2 flex flex-wrap gap-2">
          <Button small onClick={() => keep('/api/hours.ics', 'quiet hours')}>
            Best windows into a calendar
          </Button>
          <Button small onClick={() => keep('/api/hours.csv', 'quiet hours')}>
            The week as a table
          </Button>
        </div>
        {trouble ? <Notice tone="stop" title={trouble} body="Try again; nothing was changed." /> : null}
      </div>
      <div>
        <h3 className="text-plain">When may you play?</h3>
        <p className="mb-1.5 text-small text-ink-2">House rules, neighbours, sleeping children.</p>
        <CalendarFields
          calendar={brief.allowed ?? { hours: [], other_days: [] }}
          always="any hour"
          onChange={(allowed) =>
            change('hours in which playing is allowed', (now) => ({ ...now, brief: { ...now.brief, allowed } }))
          }
        />
        {active.weekday !== null && active.weekday !== undefined ? (
          <Button small look="quiet" className="mt-2" onClick={() => edit({ do: 'set-weekday', weekday: null })}>
            Any day, not only {days[active.weekday]}
          </Button>
        ) : null}
      </div>
    </div>
  )
}

const words = (h: Schemas['HoursAnswer']['hours'][number]) =>
  h.chance === null
    ? 'too little to say'
    : `${(100 * h.chance).toFixed(0)} % (${(100 * (h.low ?? 0)).toFixed(0)} to ${(100 * (h.high ?? 1)).toFixed(0)} %)${h.known === 'log' ? `, heard in ${h.nights} nights` : ', by what is noted'}${h.allowed ? '' : '; you may not play then'}`
