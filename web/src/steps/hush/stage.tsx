import { BenchHeight } from '../../bench/height'
import { KindsStage } from '../../bench/reading-stage'
import { Drawing } from '../../room/drawing'
import { noises } from '../../room/layers/noises'
import { BenchCard } from '../../rooms/bench-card'
import { Head } from '../../rooms/head'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { Whole } from '../../ui/whole'
import { clock } from '../../ui/clock'
import { DayRibbon } from './day-ribbon'

/** The day as a ribbon with a row for each noise; under it where they come in, and what is there when nobody plays. */
export function HushStage() {
  const { document, active } = useRoom()
  const { active: predicted } = usePredicted()
  const hush = predicted?.marks.hush
  const answer = !hush
    ? ''
    : hush.value === null
      ? 'Not known yet: note what runs when, or record ten seconds of silence.'
      : `${typeof active.hour === 'number' ? `At ${clock(active.hour)} the` : 'The'} noise lies ${hush.value.toFixed(0)} dB under you (${hush.source}). ${hush.sentence}`
  return (
    <>
      <Head question="When is it quiet enough?" answer={answer} />
      <DayRibbon />
      <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,5fr)_minmax(0,7fr)] gap-3 max-lg:flex max-lg:flex-col">
        <BenchCard className="flex min-h-64 flex-col">
          <h3 className="text-[1.02rem]">
            Where it comes in{' '}
            <span className="font-text text-[0.8rem] font-normal text-ink-2">dB(A) at the microphone</span>
          </h3>
          <div className="relative min-h-0 flex-1 max-lg:h-64">
            <Whole what="The drawing" again={document.name}>
              <Drawing layer={noises} small />
            </Whole>
          </div>
        </BenchCard>
        <BenchCard className="min-h-0 overflow-y-auto">
          <BenchHeight value={170}>
            <KindsStage
              form="tone"
              title="What is there when nobody plays?"
              text="Record a silence: ten seconds with the gain set as for a take."
            />
          </BenchHeight>
        </BenchCard>
      </div>
    </>
  )
}
