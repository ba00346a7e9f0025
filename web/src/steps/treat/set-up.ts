import type { Edit, Schemas } from '../../api/client'
import { freeSpot } from '../../room/floor'
import { radians } from '../../room/geometry'
import { useFurnishingKinds } from '../../state/catalogue'
import { useRoom } from '../../state/room'

const BEHIND_M = 0.55

/** Sets up what stands free behind the performer, facing them, to be tried like any move. */
export function useSetUp() {
  const { document, active, tryOut } = useRoom()
  const kinds = useFurnishingKinds()
  return (piece: Schemas['PieceAnswer']) => {
    const { at, faces_deg } = active.performer
    const back = radians(faces_deg + 180)
    const [x, y] = freeSpot(
      document,
      active,
      kinds,
      [at[0] + BEHIND_M * Math.cos(back), at[1] + BEHIND_M * Math.sin(back)],
      {
        z: 0.06,
        roomM: 0.3,
        besides: [at],
      },
    )
    const edit: Edit = {
      do: 'put-screen',
      screen: {
        kind: piece.kind,
        at: [x, y, 0.05],
        faces_deg: ((faces_deg % 360) + 360) % 360,
        width_m: piece.width_m,
        height_m: piece.height_m,
        absorber: piece.absorber!,
      },
    }
    tryOut({ kind: 'screen', title: `${piece.label} behind you`, edits: [edit] })
  }
}
