import type { KindInfo } from '../api/client'
import type { Told } from '../record/song'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'
import { LevelBar } from './level-bar'

type Props = { info: KindInfo; elapsedS: number; levelDbfs: number; told: Told; onStop: () => void; onDrop: () => void }

/** While a song is recorded: how long, how loud, and a lamp for each thing that would spoil it. */
export function Rolling({ info, elapsedS, levelDbfs, told, onStop, onDrop }: Props) {
  return (
    <div className="space-y-4" data-testid="rolling">
      <div>
        <p className="font-display text-[clamp(3.2rem,9vw,6.4rem)] leading-[0.95] font-bold text-change tabular-nums">
          {clockOf(elapsedS)}
        </p>
        <p className="mt-1 font-display text-large font-semibold">
          Recording.<span className="max-lg:hidden"> Space stops it.</span>
        </p>
      </div>
      <LevelBar dbfs={levelDbfs} good={info.good_dbfs} big />
      <ul className="flex flex-wrap gap-2" aria-live="polite">
        <Lamp name="Cut off" cure="turn the gain down" atS={told.clippedS} />
        <Lamp name="Puff" cure="aim past the microphone" atS={told.puffsS} />
      </ul>
      {told.trouble ? <Notice tone="stop" title={told.trouble} body="What was recorded until now is kept." /> : null}
      <div className="flex flex-wrap gap-2">
        <Button look="main" onClick={onStop}>
          Stop and judge it
        </Button>
        <Button onClick={onDrop}>Stop, keep nothing</Button>
      </div>
    </div>
  )
}

/** Dark until it happens; then when, how often, and what to do. */
function Lamp({ name, cure, atS }: { name: string; cure: string; atS: readonly number[] }) {
  const last = atS.at(-1)
  return (
    <li
      className={`rounded-xl border px-3.5 py-1.5 ${last === undefined ? 'border-line text-ink-2' : 'border-change bg-change/10 font-semibold'}`}
    >
      <span aria-hidden className="mr-1.5">
        {last === undefined ? '○' : '●'}
      </span>
      {last === undefined
        ? `${name}: none`
        : `${name} at ${clockOf(last)}${atS.length > 1 ? `, ${atS.length} in all` : ''}: ${cure}`}
    </li>
  )
}

export const clockOf = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, '0')}`
