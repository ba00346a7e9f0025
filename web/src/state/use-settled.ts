import { usePredicted } from './forecast'
import { useRoom } from './room'
import { useCalm } from './use-calm'

const SOON_MS = 250

/**
 * What is asked about (`ask`): the document and the arrangement in sight, once they have stood still. What is dear to
 * work out is asked of these, and only once (`enabled`) a forecast is here, for it brings the room's modes along.
 */
export function useSettled() {
  const { id, document, active } = useRoom()
  const { active: predicted } = usePredicted()
  const ask = useCalm(
    JSON.stringify([{ ...document, name: '' }, active.id]),
    { document, arrangement_id: active.id, room_id: id },
    SOON_MS,
  )
  return { ask, enabled: predicted !== null }
}
