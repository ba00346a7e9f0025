import { useQuery } from '@tanstack/react-query'
import { NavLink, useLocation } from 'react-router-dom'
import { roomQueries } from '../api/queries'
import { useRoom } from '../state/room'
import { STEPS } from './list'

/** What of the address goes along to another step: a note that is painted, but not how the room is seen there. */
function useLasting(): string {
  const { search } = useLocation()
  const parts = new URLSearchParams(search)
  parts.delete('view')
  parts.delete('layer')
  return parts.size ? `?${parts.toString()}` : ''
}

/** The path as a cord with knots: filled has what it needs, ringed is here. Any step, any time. */
export function Rail() {
  const { id, document } = useRoom()
  const search = useLasting()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const { data: measured } = useQuery(roomQueries.measured(id))
  return (
    <nav aria-label="The path" className="relative self-start max-lg:self-stretch max-lg:overflow-x-auto">
      <span
        aria-hidden
        className="absolute top-9 left-[29px] h-[calc(100%-4.5rem)] w-[3px] rounded-full bg-line max-lg:hidden"
      />
      <ul className="flex gap-0.5 lg:flex-col lg:gap-1.5 lg:py-4">
        {STEPS.map((step) => {
          const isFilled = step.filled({ document, readings, measured })
          return (
            <li key={step.key}>
              <NavLink
                to={`/rooms/${id}/${step.key}${search}`}
                className={({ isActive }) =>
                  `flex items-center gap-3.5 rounded-lg py-1.5 pr-3 font-display text-plain max-lg:pl-3 max-lg:text-note lg:ml-5 ${isActive ? 'font-bold text-ink' : 'font-medium text-ink-2 hover:text-ink'}`
                }
              >
                {({ isActive }) => (
                  <>
                    <svg width="20" height="20" viewBox="-10 -10 20 20" aria-hidden className="relative max-lg:hidden">
                      <circle r={isActive ? 9 : 7.5} fill="var(--paper)" />
                      {isActive ? (
                        <circle r="6.6" fill="var(--card)" stroke="var(--change)" strokeWidth="4" />
                      ) : isFilled ? (
                        <circle r="6" fill="var(--felt)" />
                      ) : (
                        <circle r="5.2" fill="var(--paper)" stroke="var(--line-strong)" strokeWidth="1.8" />
                      )}
                    </svg>
                    <span className={isActive ? 'max-lg:border-b-[3px] max-lg:border-change' : ''}>{step.name}</span>
                    <span className="sr-only">{isFilled ? ', has what it needs' : ''}</span>
                  </>
                )}
              </NavLink>
            </li>
          )
        })}
      </ul>
    </nav>
  )
}
