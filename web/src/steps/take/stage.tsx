import { Waiting } from '../../bench/predicted-stage'
import { Unusable } from '../../bench/empty'
import { useBest } from '../../bench/use-best'
import { useDesk } from '../../rooms/desk'
import { Head } from '../../rooms/head'
import { TakeBenches } from './benches'
import { Recording } from './recording'
import { usePlayer } from './use-player'

/** The recording, and a thread for each thing that spoils takes, with a knot where it was found. */
export function TakeStage() {
  const { reading: chosen } = useDesk()
  const reading = useBest('take', chosen)
  const found = reading?.result.findings ?? []
  const peak = reading?.result.true_peak_dbtp
  const gain = reading?.result.gain_words?.replace(/\.$/, '').replace(/^./, (first) => first.toLowerCase())
  return (
    <>
      <Head
        question="Is the take well recorded?"
        answer={
          reading === undefined
            ? ''
            : !reading
              ? 'No take yet: record your quietest and your loudest phrase, fifteen seconds are enough.'
              : reading.result.verdict.reasons.some((reason) => reason.code === 'mixed')
                ? `${reading.result.keep_words ?? ''} Nothing is concluded about this room, this microphone or the gain.`
                : `${reading.result.keep_words ?? ''} ${found.length === 0 ? 'Nothing spoils it' : `${found.length} ${found.length === 1 ? 'thing was' : 'things were'} found`}; loudest peak ${(peak ?? 0).toFixed(1).replace('-', '−')} dBFS${gain ? `, ${gain}` : ''}.`
        }
      />
      {reading === undefined ? (
        <div className="min-h-[40rem]">
          <Waiting />
        </div>
      ) : null}
      {reading ? (
        typeof peak === 'number' ? (
          <Judged key={reading.id} reading={reading} />
        ) : (
          <Unusable reading={reading} />
        )
      ) : null}
    </>
  )
}

function Judged({ reading }: { reading: NonNullable<ReturnType<typeof useBest<'take'>>> }) {
  const player = usePlayer(reading.id)
  return (
    <>
      <Recording id={reading.id} take={reading.result} seconds={reading.seconds} player={player} />
      <TakeBenches take={reading} />
    </>
  )
}
