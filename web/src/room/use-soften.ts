import { useRoom } from '../state/room'
import type { Path } from './layers/layer'
import { treatmentAt } from './soft-at'

/** Tries something soft where a reflection meets its first surface. */
export function useSoften() {
  const { document, tryOut } = useRoom()
  return {
    soften: (path: Path) => {
      const treatment = treatmentAt(document, path.surfaces[0]!, path.points[0]!)
      if (!treatment) return
      const title = `${treatment.label} where ${path.where} answers first`
      tryOut({ kind: 'reflection', title, edits: [{ do: 'hang', treatment }] })
    },
  }
}
