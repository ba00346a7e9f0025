import { useRef, useState } from 'react'
import { inWords, type Schemas } from '../../api/client'
import { api, unwrap } from '../../api/client'
import { ofRoom } from '../../api/queries'
import { LevelBar } from '../../listen/level-bar'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { Check, NumberField } from '../../ui/fields'
import { Caution, Notice } from '../../ui/notice'
import { Segmented } from '../../ui/segmented'
import { type Way, useSilence } from './use-silence'

const WAYS = [
  { key: 'browser', name: 'This microphone' },
  { key: 'rig', name: 'Practice rig' },
] as const
const SILENCE_S = 14

type Step = { cue: string; off: string | null; last: boolean }
type Running =
  | { phase: 'chosen' }
  | { phase: 'going'; at: number; steps: Step[] }
  | { phase: 'stopped'; why: string }
  | { phase: 'done'; found: Schemas['RoundAnswer'] }

/** A house round: all on, one off at a time, all on again; what each makes of the whole. */
export function RoundBench() {
  const { document, active } = useRoom()
  const [open, setOpen] = useState(false)
  const [found, setFound] = useState<Schemas['RoundAnswer'] | null>(null)
  const sounding = document.noises.filter((n) => n.kind !== 'outside' && !active.silenced.includes(n.name))
  return (
    <div className="pb-3" data-testid="round-bench">
      <div className="flex flex-wrap items-start justify-between gap-2">
        <div className="min-w-0 flex-1">
          <h3 className="text-head leading-tight">What does each machine make of the noise?</h3>
          <p className="text-note text-ink-2">
            {found
              ? found.words
              : 'All on, then one off at a time, then all on again: fourteen seconds each, with cues you can read from the fuse box.'}
          </p>
        </div>
        <Button look="main" disabled={sounding.length === 0} onClick={() => setOpen(true)}>
          {found ? 'Another round' : 'Begin a house round'}
        </Button>
      </div>
      {sounding.length === 0 ? (
        <p className="mt-2 text-note text-ink-2">Note what runs in the house first; nothing that sounds is noted.</p>
      ) : null}
      {found ? <Shares found={found} /> : null}
      {open ? (
        <RoundSheet
          names={sounding.map((n) => n.name)}
          onClose={() => setOpen(false)}
          onFound={(answer) => {
            setFound(answer)
            setOpen(false)
          }}
        />
      ) : null}
    </div>
  )
}

/** Each source's share as a bar from quiet to loud, with how sure it is. */
function Shares({ found }: { found: Schemas['RoundAnswer'] }) {
  const told = found.shares.filter((s) => s.level_db !== null && s.level_db !== undefined)
  const low = Math.min(...told.map((s) => s.level_db!), found.all_db) - 6
  const along = (db: number) => ((db - low) / (found.all_db + 3 - low)) * 100
  return (
    <div className={found.valid ? '' : 'opacity-60'}>
      <ul className="mt-2" aria-label="Shares, loudest first">
        {found.shares.map((s) => {
          const sure = s.level_db !== null && s.level_db !== undefined
          const spread = s.plus_minus_db ?? 0
          return (
            <li
              key={s.name}
              className="grid grid-cols-[9rem_1fr_auto] items-center gap-3 border-b border-line py-1 last:border-0"
            >
              <span className="truncate font-semibold">{s.name}</span>
              <span aria-hidden className="relative h-3 rounded-full bg-floor">
                {sure ? (
                  <>
                    <span
                      className="absolute inset-y-0 left-0 rounded-full bg-hush"
                      style={{ width: `${Math.max(along(s.level_db!), 2)}%` }}
                    />
                    <span
                      className="absolute top-1/2 h-0.5 -translate-y-1/2 bg-ink"
                      style={{
                        left: `${Math.max(along(s.level_db! - spread), 0)}%`,
                        width: `${(spread * 200) / (found.all_db + 3 - low)}%`,
                      }}
                    />
                  </>
                ) : null}
              </span>
              <span className="text-right text-small tabular-nums">
                {sure
                  ? `${s.level_db!.toFixed(1).replace('-', '−')} ± ${spread.toFixed(1)} dB · off wins ${(s.off_wins_db ?? 0).toFixed(1)} dB`
                  : 'cannot be told: too far below the rest'}
              </span>
            </li>
          )
        })}
      </ul>
      <p className="mt-1 text-small text-ink-2">
        A-weighted, on the scale of the recording; everything together {found.all_db.toFixed(1).replace('-', '−')} dB.
        {found.again_db !== null && found.again_db !== undefined
          ? ` All on again: ${Math.abs(found.again_db).toFixed(1)} dB ${found.again_db > 0 ? 'louder' : 'quieter'}.`
          : ''}
      </p>
    </div>
  )
}

type SheetProps = {
  names: readonly string[]
  onClose: () => void
  onFound: (found: Schemas['RoundAnswer']) => void
}

/** The round itself, led by cues large enough to be read from across the house. */
function RoundSheet({ names, onClose, onFound }: SheetProps) {
  const { id } = useRoom()
  const { take, mic } = useSilence()
  const [way, setWay] = useState<Way>('browser')
  const [chosen, setChosen] = useState<readonly string[]>(names)
  const [walkS, setWalkS] = useState(20)
  const [running, setRunning] = useState<Running>({ phase: 'chosen' })
  const stopped = useRef(false)
  const steps: Step[] = [
    { cue: 'Leave everything on', off: null, last: false },
    ...chosen.map((name, i): Step => ({
      cue: i ? `${chosen[i - 1]} on again. ${name} off` : `${name} off`,
      off: name,
      last: false,
    })),
    { cue: `${chosen.at(-1) ?? 'Everything'} on again: all on`, off: null, last: true },
  ]
  const go = async () => {
    stopped.current = false
    const without: Record<string, string> = {}
    let all: string | null = null
    let again: string | null = null
    try {
      for (const [at, step] of steps.entries()) {
        if (stopped.current) return
        setRunning({ phase: 'going', at, steps })
        const reading = await take({
          way,
          seconds: SILENCE_S,
          countdownS: at === 0 ? 5 : Math.round(walkS),
          silenced: step.off ? [step.off] : [],
          note: `House round: ${step.off ? `without ${step.off}` : step.last ? 'all on again' : 'all on'}`,
        })
        if (stopped.current) return
        if (!reading.verdict.usable) {
          const why = reading.verdict.reasons[0]
          throw new Error(`${step.cue}: ${why ? `${why.text} ${why.cure}` : 'that silence cannot be used.'}`)
        }
        if (step.off) without[step.off] = reading.id
        else if (step.last) again = reading.id
        else all = reading.id
      }
      onFound(
        unwrap(
          await api.POST('/api/rooms/{room_id}/house-round', { ...ofRoom(id), body: { all_on: all!, without, again } }),
        ),
      )
    } catch (error) {
      if (stopped.current) return
      const { title, cure } = inWords(error)
      setRunning({
        phase: 'stopped',
        why: `${title} ${error instanceof Error && title === error.message ? '' : cure}`.trim(),
      })
    }
  }
  const stop = () => {
    stopped.current = true
    mic.cancel()
    setRunning({ phase: 'chosen' })
  }
  return (
    <Sheet open onClose={() => (running.phase === 'going' ? undefined : onClose())} title="House round" wide>
      {running.phase === 'going' ? (
        <div className="space-y-4 py-4" data-testid="round-going">
          <p className="text-ink-2">
            {running.at + 1} of {running.steps.length}
          </p>
          <p className="font-display text-huge leading-tight font-bold" aria-live="assertive">
            {mic.state.phase === 'recording' ? 'Silence' : running.steps[running.at]!.cue}
          </p>
          <p className="font-display text-large font-semibold text-change tabular-nums" aria-live="polite">
            {mic.state.phase === 'counting'
              ? `${mic.state.secondsLeft} s to get there`
              : mic.state.phase === 'recording'
                ? `${Math.max(mic.state.totalS - mic.state.elapsedS, 0).toFixed(0)} s left`
                : way === 'rig'
                  ? 'The rig is recording'
                  : 'Reading it'}
          </p>
          {way === 'browser' ? <LevelBar dbfs={mic.level} good={[-80, -24]} big /> : null}
          <Button onClick={stop}>Stop the round</Button>
        </div>
      ) : (
        <div className="space-y-3">
          {running.phase === 'stopped' ? <Notice tone="stop" title="The round stopped." body={running.why} /> : null}
          <Segmented small label="How" value={way} options={WAYS} onChange={setWay} />
          <fieldset>
            <legend className="font-semibold">Which can be switched off, one at a time?</legend>
            <div className="grid grid-cols-2 gap-x-4 max-sm:grid-cols-1">
              {names.map((name) => (
                <Check
                  key={name}
                  label={name}
                  checked={chosen.includes(name)}
                  onChange={(on) =>
                    setChosen(
                      on ? names.filter((n) => n === name || chosen.includes(n)) : chosen.filter((n) => n !== name),
                    )
                  }
                />
              ))}
            </div>
          </fieldset>
          {way === 'browser' ? (
            <div className="max-w-56">
              <NumberField
                label="Time to get there and back"
                unit="s"
                value={walkS}
                low={3}
                high={300}
                onChange={setWalkS}
              />
            </div>
          ) : null}
          <p className="text-note text-ink-2">
            {steps.length} silences of fourteen seconds. Leave the gain and the microphone where they are. Something
            that comes and goes by itself may spoil it: wait until it runs.
          </p>
          <Caution text="Switch machines off as their makers say; leave fuses, heating and alarms alone. What is off goes on the list to put back." />
          <div className="flex justify-end gap-2">
            <Button onClick={onClose}>Close</Button>
            <Button look="main" disabled={chosen.length === 0} onClick={() => void go()}>
              Begin
            </Button>
          </div>
        </div>
      )}
    </Sheet>
  )
}
