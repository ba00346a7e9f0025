import { useDesk } from '../rooms/use-desk'
import { useKinds } from '../state/catalogue'
import { MeasuringPlace } from './measuring-place'

/** The measuring place, over whatever step asked for it. It goes back there: on the steps of readings to the reading. */
export function Measuring() {
  const { step, open, taking, learn, close } = useDesk()
  const { kindOf } = useKinds()
  if (!taking) return null
  return (
    <MeasuringPlace
      key={taking}
      kind={kindOf(taking)}
      backTo={step.reads ? null : step.name}
      onClose={(last) => {
        if (last && step.reads) return open(last, true)
        if (last) learn(last)
        close()
      }}
    />
  )
}
