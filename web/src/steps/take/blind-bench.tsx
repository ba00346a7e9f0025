import { useState } from 'react'
import { Button } from '../../ui/button'
import { partOf } from '../../ui/play-part'
import { Select } from '../../ui/select'
import { LEAST_TRIALS, MOST_TRIALS, newTrials, right, type Trial, verdictOf } from './blind'
import { OwnEars } from './own-ears'
import { usePair } from './use-pair'
import { nameOfTake, useTakes } from './use-takes'
import { WhichBetter } from './which-better'

const HEARD_S = 12
const LEAD_S = 0.3

/** Which of two takes is better, without knowing which: equally loud, switched without a gap, nothing told before the end. */
export function BlindBench({ take }: { take: string }) {
  const takes = useTakes()
  const [first, setFirst] = useState<string | null>(null)
  const [second, setSecond] = useState<string | null>(null)
  const one = first ?? take
  const other = second ?? takes.find((r) => r.id !== one)?.id ?? null
  const [trials, setTrials] = useState<Trial[] | null>(null)
  const player = usePair()
  // each from its own first line, so that both sing the same while they are switched
  const begins = (id: string) => Math.max((takes.find((r) => r.id === id)?.headline.begins_s ?? 0) - LEAD_S, 0)
  if (takes.length < 2)
    return (
      <>
        <p className="text-note text-ink-2">Sing it again: two takes are compared blind, equally loud.</p>
        <OwnEars take={take} beginsS={begins(take)} />
      </>
    )
  const options = takes.map((r) => ({
    key: r.id,
    name: nameOfTake(r, takes),
    hint: `${r.headline.said ?? ''}${r.simulated ? ', simulated' : ''}`,
  }))
  const loud = (key: string) => takes.find((r) => r.id === key)?.headline.loudness_lufs ?? null
  const matched = other !== null && loud(one) !== null && loud(other) !== null
  const at = trials?.findIndex((t) => t.said === null) ?? -1
  const answered = trials?.filter((t) => t.said !== null).length ?? 0
  const over = trials !== null && (at < 0 || answered >= MOST_TRIALS)
  const heard = (id: string) => `${partOf(id, begins(id), begins(id) + HEARD_S)}&level=false`
  const pair = [heard(one), heard(other ?? one)] as const
  const say = (said: 'a' | 'b') => {
    player.stop()
    setTrials((now) => now?.map((t, i) => (i === at ? { ...t, said } : t)) ?? null)
  }
  return (
    <div data-testid="blind">
      <h3 className="text-head leading-tight">Which is better, blind?</h3>
      <p className="text-note text-ink-2">
        Equally loud, order unknown; say whether X is A or B, {LEAST_TRIALS} times. Nothing is told before the end.
      </p>
      <div className="mt-2 grid grid-cols-2 gap-2 sm:max-w-xl">
        <Select label="A" value={one} options={options} onChange={(key) => (setFirst(key), setTrials(null))} />
        <Select label="B" value={other ?? ''} options={options} onChange={(key) => (setSecond(key), setTrials(null))} />
      </div>
      {other === null || one === other ? (
        <p className="mt-2 text-note text-ink-2">Choose two different takes.</p>
      ) : !matched ? (
        <p className="mt-2 text-note text-ink-2">One of them is too quiet to be made equally loud.</p>
      ) : (
        <div className="mt-2 flex flex-wrap items-center gap-2">
          {(['A', 'B'] as const).map((name) => (
            <Button key={name} small onClick={() => void player.play(pair, name === 'A', { matched: true })}>
              Play {name}
            </Button>
          ))}
          {trials === null ? (
            <Button small look="main" onClick={() => setTrials(newTrials(LEAST_TRIALS))}>
              Begin {LEAST_TRIALS} trials
            </Button>
          ) : over ? null : (
            <>
              <Button small look="warm" onClick={() => void player.play(pair, trials[at]!.isA, { matched: true })}>
                Play X
              </Button>
              <span className="text-note tabular-nums">
                {answered + 1} of {trials.length}:
              </span>
              <Button small onClick={() => say('a')}>
                X is A
              </Button>
              <Button small onClick={() => say('b')}>
                X is B
              </Button>
            </>
          )}
          <Button small look="quiet" onClick={player.stop}>
            Stop
          </Button>
        </div>
      )}
      {over && trials ? (
        <>
          <p className="mt-2 font-semibold" role="status">
            {verdictOf(right(trials), trials.length)}{' '}
            <Button small look="quiet" onClick={() => setTrials(null)}>
              Once more
            </Button>
          </p>
          {other !== null && one !== other ? (
            <WhichBetter
              one={{ id: one, name: 'A' }}
              other={{ id: other, name: 'B' }}
              blind={{ right: right(trials), trials: trials.length }}
            />
          ) : null}
        </>
      ) : null}
      <OwnEars take={take} beginsS={begins(take)} />
    </div>
  )
}
