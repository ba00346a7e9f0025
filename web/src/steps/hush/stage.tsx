import { useState } from 'react'
import { BenchHeight } from '../../bench/height'
import { KindsStage } from '../../bench/reading-stage'
import { Drawing } from '../../room/drawing'
import { noises } from '../../room/layers/noises'
import { BenchCard } from '../../rooms/bench-card'
import { Head } from '../../rooms/head'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { clock } from '../../ui/clock'
import { Segmented } from '../../ui/segmented'
import { Whole } from '../../ui/whole'
import { DAY_LETTERS } from './calendar'
import { DayRibbon } from './day-ribbon'
import { HumBench } from './hum'
import { MeaningBench } from './meaning'
import { RoomToneBench } from './room-tone'
import { RoundBench } from './round'
import { useHours, useHush } from '../../state/use-hush'
import { WatchBench } from './watch'
import { WaysBench } from './ways'
import { WeekBench } from './week'

const LOOKS = [
  { key: 'where', name: 'Where it comes in' },
  { key: 'heard', name: 'Heard under you' },
  { key: 'week', name: 'The week' },
  { key: 'watch', name: 'Watch' },
  { key: 'round', name: 'House round' },
  { key: 'ways', name: 'Ways in' },
  { key: 'hum', name: 'Hum' },
  { key: 'tone', name: 'Room tone' },
] as const
type Look = (typeof LOOKS)[number]['key']

/** The day as a ribbon with a row for each noise; under it what is asked about them. */
export function HushStage() {
  const { document, active, edit } = useRoom()
  const { active: predicted } = usePredicted()
  const [look, setLook] = useState<Look>('where')
  const hush = useHush()
  const hours = useHours()
  const mark = predicted?.marks.hush
  const day = active.weekday
  const now = hours.data?.now_words ?? ''
  const answer = !mark
    ? ''
    : mark.value === null
      ? mark.sentence
      : `${typeof active.hour === 'number' ? `At ${clock(active.hour)} the` : 'The'} noise lies ${mark.value.toFixed(0)} dB under you (${mark.source}). ${now || mark.sentence}`
  return (
    <>
      <Head
        question="When is it quiet enough?"
        answer={answer}
        tools={
          <div className="flex gap-0.5" role="group" aria-label="Day of the week">
            {DAY_LETTERS.map((letters, i) => (
              <button
                key={letters}
                aria-pressed={(day ?? 0) === i}
                aria-label={`Record on ${letters}`}
                onClick={() => edit({ do: 'set-weekday', weekday: i })}
                className={`min-h-8 rounded-lg px-2 text-small font-semibold ${(day ?? 0) === i ? 'bg-ink text-paper' : 'text-ink-2 hover:bg-floor'}`}
              >
                {letters}
              </button>
            ))}
          </div>
        }
      />
      <DayRibbon hours={hours.data} minutes={document.brief.piece_min ?? 4} />
      <BenchCard className="flex min-h-72 flex-1 flex-col overflow-y-auto max-lg:overflow-visible">
        <div className="mb-1.5 shrink-0">
          <Segmented small label="About the noise" value={look} options={LOOKS} onChange={setLook} />
        </div>
        {look === 'where' ? <WhereBench /> : null}
        {look === 'heard' ? <MeaningBench hush={hush.data} /> : null}
        {look === 'week' ? <WeekBench hours={hours.data} /> : null}
        {look === 'watch' ? <WatchBench /> : null}
        {look === 'round' ? <RoundBench /> : null}
        {look === 'ways' ? <WaysBench hush={hush.data} /> : null}
        {look === 'hum' ? <HumBench /> : null}
        {look === 'tone' ? <RoomToneBench /> : null}
      </BenchCard>
    </>
  )
}

/** Where each noise comes in, on the plan, beside what a silence has read. */
function WhereBench() {
  const { document } = useRoom()
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,5fr)_minmax(0,7fr)] gap-3 max-lg:flex max-lg:flex-col">
      <div className="flex min-h-56 flex-col">
        <p className="text-fine text-ink-2">dB(A) at the microphone; drag a noise</p>
        <div className="relative min-h-0 flex-1 max-lg:h-64 max-lg:flex-none">
          <Whole what="The drawing" again={document.name}>
            <Drawing layer={noises} small />
          </Whole>
        </div>
      </div>
      <div className="min-h-0 overflow-y-auto">
        <BenchHeight value={150}>
          <KindsStage
            form="tone"
            title="What is there when nobody plays?"
            text="Record a silence: fourteen seconds with the gain set as for a take."
          />
        </BenchHeight>
      </div>
    </div>
  )
}
