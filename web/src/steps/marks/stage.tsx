import { BenchCard } from '../../rooms/bench-card'
import { wantedWords } from '../../marks/marks-column'
import { Board } from '../../rooms/board'
import { usePredicted } from '../../state/forecast'
import { shortText, useUnits } from '../../state/units'
import { MarksBench } from './bench'

/** The plan with everybody on it; under it what that place gives. */
export function MarksStage() {
  const { active } = usePredicted()
  const units = useUnits()
  const { bounce, touch } = active?.marks ?? {}
  return (
    <>
      <Board
        question="Where does everybody stand?"
        answer={
          bounce && touch
            ? `You are ${shortText(touch.distance_m, units)} from the microphone${bounce.value === null ? '' : `, ${bounce.value.toFixed(1).replace('-', '−')} dB over the room; ${wantedWords('bounce', bounce.wanted, bounce.unit)} is wanted`}.`
            : ''
        }
      />
      <BenchCard className="h-[43%] shrink-0 overflow-y-auto max-lg:h-auto max-lg:min-h-[26rem]">
        <MarksBench />
      </BenchCard>
    </>
  )
}
