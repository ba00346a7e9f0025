import { useDesk } from '../rooms/use-desk'
import { $api } from '../api/client'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'

/** Pressure of the modes over a plane, at the height of the microphone or of the ears; null until it is of this plane. */
export function useSwell(plane: 'plan' | 'section-x' | 'section-y') {
  const { document, active } = useRoom()
  const { active: forecast } = usePredicted() // the marks first: a map beside them would keep them waiting
  const { atEars } = useDesk()
  const heightM = plane === 'plan' && atEars && active.listener ? active.listener.at[2] : null
  const { data } = $api.useQuery(
    'post',
    '/api/swell',
    { body: { document, arrangement_id: active.id, plane, height_m: heightM } }, // whoever draws it looks whether the plane is the right one
    { enabled: forecast !== null, gcTime: 30_000 },
  )
  return data?.plane === plane ? data : null
}
