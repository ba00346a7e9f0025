import type { ResultOf } from '../../api/client'
import { Waiting } from '../../bench/predicted-stage'
import { Unusable } from '../../bench/empty'
import { useBest } from '../../bench/use-best'
import { useDesk } from '../../rooms/use-desk'
import { Head } from '../../rooms/head'
import { TakeBenches } from './benches'
import { Recording } from './recording'
import { usePlayer } from './use-player'

/** The recording, and a thread for each thing that spoils takes, with a knot where it was found. */
export function TakeStage() {
  const { reading: chosen } = useDesk()
  const reading = useBest('take', chosen)
  return (
    <>
      <Head
        question="Is the take well recorded?"
        answer={reading === undefined ? '' : answerOf(reading?.result ?? null)}
      />
      {reading === undefined ? (
        <div className="min-h-[40rem]">
          <Waiting />
        </div>
      ) : null}
      {reading ? (
        typeof reading.result.true_peak_dbtp === 'number' ? (
          <Judged key={reading.id} reading={reading} />
        ) : (
          <Unusable reading={reading} />
        )
      ) : null}
    </>
  )
}

function answerOf(take: ResultOf<'take'> | null): string {
  if (!take) return 'No take yet: record your quietest and your loudest phrase, fifteen seconds are enough.'
  const keep = take.keep_words ?? ''
  if (take.verdict.reasons.some((reason) => reason.code === 'mixed'))
    return `${keep} Nothing is concluded about this room, this microphone or the gain.`
  const count = take.findings.length
  const found = count === 0 ? 'Nothing spoils it' : `${count} ${count === 1 ? 'thing was' : 'things were'} found`
  const peak = (take.true_peak_dbtp ?? 0).toFixed(1).replace('-', '−')
  const gain = take.gain_words?.replace(/\.$/, '').replace(/^./, (first) => first.toLowerCase())
  return `${keep} ${found}; loudest peak ${peak} dBFS${gain ? `, ${gain}` : ''}.`
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
