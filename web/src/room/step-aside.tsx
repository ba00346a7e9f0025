import { useFurnishingKinds } from '../state/catalogue'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { freeSpot, stoodIn } from './floor'

/** Told on the drawing when the performer stands in a piece of furniture, with the way out of it. */
export function StepAside() {
  const { document, active, edit } = useRoom()
  const kinds = useFurnishingKinds()
  const piece = stoodIn(document, active, kinds)
  if (!piece) return null
  const { at, faces_deg } = active.performer
  const aside = () => {
    const [x, y] = freeSpot(document, active, kinds, [at[0], at[1]], { z: at[2], roomM: 0.5, besides: [at] })
    const by = [x - at[0], y - at[1]] as const
    const { microphone } = active
    const [mx, my] = freeSpot(document, active, kinds, [microphone.at[0] + by[0], microphone.at[1] + by[1]], {
      z: microphone.at[2],
      roomM: 0.1,
      besides: [at, microphone.at],
    })
    edit(
      { do: 'place', who: 'performer', at: [x, y, at[2]], turn_deg: faces_deg, tilt_deg: microphone.tilt_deg },
      {
        do: 'place',
        who: 'microphone',
        at: [mx, my, microphone.at[2]],
        turn_deg: microphone.aims_deg,
        tilt_deg: microphone.tilt_deg,
      },
    )
  }
  return (
    <div
      role="status"
      data-testid="step-aside"
      className="absolute top-2 left-1/2 z-10 flex -translate-x-1/2 items-center gap-3 rounded-full border border-change bg-card py-1 pr-1 pl-4 whitespace-nowrap shadow-card"
    >
      <span className="text-note">You stand in the {(kinds[piece.kind]?.name ?? piece.kind).toLowerCase()}.</span>
      <Button small look="warm" onClick={aside}>
        Step aside
      </Button>
    </div>
  )
}
