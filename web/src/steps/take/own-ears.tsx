import { keepPreviousData } from '@tanstack/react-query'
import { useState } from 'react'
import { $api } from '../../api/client'
import { Button } from '../../ui/button'
import { partOf } from '../../ui/play-part'
import { Segmented } from '../../ui/segmented'
import { earsKept, keepEar, type Ear } from './ears'
import { usePair } from './use-pair'

const HEARD_S = 4
const ASKED = [
  { key: 'louder', name: 'Louder' },
  { key: 'brighter', name: 'Brighter' },
  { key: 'noise', name: 'Noise' },
] as const

/** The smallest difference that these ears hear on this take: pairs that grow harder, nothing told before the end. */
export function OwnEars({ take, beginsS }: { take: string; beginsS: number }) {
  const [what, setWhat] = useState<Ear>('noise')
  const [answers, setAnswers] = useState<string | null>(null)
  const [changedIsFirst, setFirst] = useState(true)
  const [kept, setKept] = useState(earsKept)
  const found = $api.useQuery(
    'get',
    '/api/thresholds/{what}',
    { params: { path: { what }, query: { answers: answers ?? '' } } },
    { enabled: answers !== null, placeholderData: keepPreviousData, retry: false },
  )
  const player = usePair()
  const begin = (asked: Ear) => {
    player.stop()
    setWhat(asked)
    setAnswers(null)
  }
  const step = found.data
  const address = (byDb: number) =>
    `${partOf(take, beginsS, beginsS + HEARD_S)}&change=${what}&by_db=${byDb.toFixed(2)}`
  const pair = step?.next_db == null ? null : ([address(step.next_db), address(step.plain_db)] as const)
  const say = (first: boolean) => {
    player.stop()
    setAnswers((now) => `${now ?? ''}${first === changedIsFirst ? 'r' : 'w'}`)
    setFirst(Math.random() < 0.5)
  }
  const over = answers !== null && step !== undefined && !found.isPlaceholderData && step.next_db == null
  const keep = () => {
    if (step?.threshold_db != null) setKept(keepEar(what, step.threshold_db))
    setAnswers(null)
  }
  const own = kept[what]
  return (
    <section className="mt-3 border-t border-line pt-2.5" data-testid="own-ears">
      <h3 className="text-head leading-tight">How small a difference do you hear?</h3>
      <p className="text-note text-ink-2">
        Two pieces of this take, one of them changed; each right answer makes it harder. Some thirty pairs.
        {own === undefined ? '' : ` Yours so far: ${own.toFixed(1).replace('-', '−')} dB.`}
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <Segmented label="What to listen for" small value={what} options={ASKED} onChange={begin} />
        {answers === null ? (
          <Button small look="main" onClick={() => (setFirst(Math.random() < 0.5), setAnswers(''))}>
            Begin
          </Button>
        ) : pair ? (
          <>
            {([true, false] as const).map((first) => (
              <Button
                key={String(first)}
                small
                disabled={found.isPlaceholderData}
                onClick={() => void player.play(pair, first === changedIsFirst, { matched: false })}
              >
                Play {first ? '1' : '2'}
              </Button>
            ))}
            {([true, false] as const).map((first) => (
              <Button
                key={`is${String(first)}`}
                small
                look="warm"
                disabled={found.isPlaceholderData}
                onClick={() => say(first)}
              >
                It is {first ? '1' : '2'}
              </Button>
            ))}
            <Button small look="quiet" onClick={() => begin(what)}>
              Stop
            </Button>
          </>
        ) : null}
      </div>
      <p role="status" className="mt-1 min-h-[1.4em] text-note">
        {answers === null ? '' : (step?.text ?? '')}{' '}
        {over ? (
          <Button small look="quiet" onClick={keep}>
            {step.threshold_db == null ? 'Once more' : 'Keep it'}
          </Button>
        ) : null}
      </p>
    </section>
  )
}
