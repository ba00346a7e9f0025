import { BenchHeight } from '../../bench/height'
import { FormBench } from '../../bench/forms'
import { Waiting } from '../../bench/predicted-stage'
import { useBest } from '../../bench/use-best'
import { BenchCard } from '../../rooms/bench-card'
import { useDesk } from '../../rooms/desk'
import { Head } from '../../rooms/head'
import { BlindBench } from './blind-bench'
import { Threads } from './threads'

/** The recording, and a thread for each thing that spoils takes, with a knot where it was found. */
export function TakeStage() {
  const { reading: chosen } = useDesk()
  const reading = useBest('take', chosen)
  const found = reading?.result.findings ?? []
  const peak = reading?.result.true_peak_dbtp
  const advice = reading?.result.gain_advice_db ?? 0
  return (
    <>
      <Head
        question="Is the take well recorded?"
        answer={
          reading === undefined
            ? ''
            : !reading
              ? 'No take yet: record your quietest and your loudest phrase, fifteen seconds are enough.'
              : `${reading.result.keep_words ?? ''} ${found.length === 0 ? 'Nothing spoils it' : `${found.length} ${found.length === 1 ? 'thing was' : 'things were'} found`}; loudest peak ${(peak ?? 0).toFixed(1).replace('-', '−')} dBFS, ${advice === 0 ? 'leave the gain where it is' : `turn the gain ${advice > 0 ? 'up' : 'down'} by about ${Math.abs(advice)} dB`}.`
        }
      />
      {reading === undefined ? (
        <div className="min-h-[40rem]">
          <Waiting />
        </div>
      ) : null}
      {reading ? (
        <>
          <BenchCard className="shrink-0">
            <BenchHeight value={210}>
              <FormBench key={reading.id} reading={reading} />
            </BenchHeight>
          </BenchCard>
          <Threads take={reading.result} />
          <BlindBench take={reading.id} />
        </>
      ) : null}
    </>
  )
}
