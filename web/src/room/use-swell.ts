import { useQuery } from '@tanstack/react-query'
import { roomQueries } from '../api/queries'
import { useDesk } from '../rooms/desk'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'

/** Pressure of the modes over a plane, at the height of the microphone or of the ears; null until it is of this plane. */
export function useSwell(plane: 'plan' | 'section-x' | 'section-y') {
  const { document, active } = useRoom()
  const { active: forecast } = usePredicted() // the marks first: a map beside them would keep them waiting
  const { atEars } = useDesk()
  const heightM = plane === 'plan' && atEars && active.listener ? active.listener.at[2] : null
  const { data } = useQuery(roomQueries.swell(document, active.id, plane, heightM, forecast !== null))
  return data?.plane === plane ? data : null
}
