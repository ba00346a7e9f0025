import { useRoom } from './room'
import { useCalm } from './use-calm'

const SOON_MS = 250

/** The document and the arrangement in sight, once they have stood still: what is dear to work out is asked of these. */
export function useSettled() {
  const { document, active } = useRoom()
  return useCalm(
    JSON.stringify([{ ...document, name: '' }, active.id]),
    { document, arrangementId: active.id },
    SOON_MS,
  )
}
