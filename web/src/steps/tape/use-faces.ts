import { useMemo } from 'react'
import type { RoomDoc } from '../../api/client'
import { usePredicted } from '../../state/forecast'

/** Names of the room's faces: from the forecast when it is there, else walls, floor and one ceiling. */
export function useFaces(document: RoomDoc): string[] {
  const { active } = usePredicted()
  const walls = document.shape.plan.length
  return useMemo(() => {
    const known = active?.shape.faces.map((f) => f.name) ?? []
    if (known.filter((n) => n.startsWith('wall-')).length === walls) return known
    return [...Array.from({ length: walls }, (_, i) => `wall-${i + 1}`), 'floor', 'ceiling']
  }, [active, walls])
}
