import { useState } from 'react'
import { NextMoves } from '../../moves/next-moves'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Check } from '../../ui/fields'
import { Caution } from '../../ui/notice'
import { daySpans, spanWords } from './calendar'
import { NoiseEditor } from './noise-editor'
import { PutBackOn } from '../../rooms/put-back-on'
import { QuietMoves } from './quiet-moves'
import { useHush } from '../../state/use-hush'

/** Which noises there are and what they do to a take, what to switch off, what helps together, what to put back. */
export function HushSide() {
  const { document, active, edit, trying } = useRoom()
  const { active: predicted } = usePredicted()
  const { data: hush, isError } = useHush()
  const [editing, setEditing] = useState<number | 'new' | null>(null)
  const { silenced } = active
  const levels = new Map((hush?.sources ?? []).map((s) => [s.name, s]))
  // what spoils takes most comes first; what rests now comes last
  const rank = (name: string) => {
    const at = (hush?.sources ?? []).findIndex((s) => s.name === name)
    return at < 0 ? Infinity : at
  }
  const ranked = document.noises
    .map((noise, number) => ({ noise, number }))
    .sort((a, b) => (rank(a.noise.name) === rank(b.noise.name) ? 0 : rank(a.noise.name) - rank(b.noise.name)))
  // all at once, in its order: nothing moves under the finger when the answer comes
  if (!hush && !isError)
    return (
      <p role="status" className="min-h-[60rem] text-note text-ink-2">
        Weighing what could be done about the noise
      </p>
    )
  return (
    <div className="space-y-3">
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="text-head">Noises</h2>
        <Button small look={document.noises.length ? 'plain' : 'main'} onClick={() => setEditing('new')}>
          Note a noise
        </Button>
      </div>
      {document.noises.length === 0 ? (
        <p className="text-note text-ink-2">
          None is noted. Note what runs when, or record a silence in Listen: it names hums and levels.
        </p>
      ) : (
        <ul>
          {ranked.map(({ noise, number: i }) => {
            const heard = levels.get(noise.name)
            const off = silenced.includes(noise.name)
            return (
              <li key={noise.name} className="border-b border-line py-2 last:border-0">
                <div className="flex items-baseline justify-between gap-2">
                  <button
                    className="text-left font-semibold underline decoration-line-strong underline-offset-2 hover:text-felt"
                    onClick={() => setEditing(i)}
                    aria-label={`Change ${noise.name}`}
                  >
                    {noise.name}
                  </button>
                  <span className="text-note whitespace-nowrap text-ink-2">
                    {heard
                      ? `${heard.level_dba.toFixed(0)} dB(A) at the mic`
                      : !predicted || !hush
                        ? '–'
                        : off
                          ? 'switched off'
                          : 'not at this hour'}
                  </span>
                </div>
                <Meter level={heard?.level_dba ?? null} />
                <p className="text-small text-ink-2">
                  {noise.kind === 'inside'
                    ? 'in the room'
                    : `${noise.kind === 'structure' ? 'in the building at' : 'through'} ${(noise.surface ?? 'the wall').replace('wall-', 'wall ')}`}
                  {` · ${spanWords(daySpans(noise, active.weekday ?? 0))}`}
                  {noise.cycle ? ` · every ${Number(noise.cycle.period_min.toFixed(1))} min` : ''}
                </p>
                {heard?.warns ? (
                  <p className="text-small font-semibold text-change">
                    Comes and goes by {heard.step_db!.toFixed(0)} dB: worse in a take than a steady noise as loud.
                  </p>
                ) : null}
                {noise.kind === 'inside' || off ? (
                  <Check
                    label="Off, or out of the room, while recording"
                    checked={off}
                    onChange={(on) => edit({ do: 'switch', noise: noise.name, on_again: !on })}
                  />
                ) : null}
              </li>
            )
          })}
        </ul>
      )}
      <PutBackOn />
      {trying ? <NextMoves /> : <QuietMoves hush={hush} />}
      {hush ? (
        <details className="border-t border-line pt-2">
          <summary className="cursor-pointer font-display font-semibold">Fan off: cool first</summary>
          <p className="mt-1 text-note">{hush.warming.words}</p>
          <Caution text={hush.warming.caution} />
        </details>
      ) : null}
      <Caution text="Hum from wiring is an electrician’s business: never lift a safety earth." />
      {editing !== null ? (
        <NoiseEditor number={editing === 'new' ? null : editing} onClose={() => setEditing(null)} />
      ) : null}
    </div>
  )
}

/** Level from 10 to 60 dB(A) as a length. */
function Meter({ level }: { level: number | null }) {
  const share = level === null ? 0 : Math.min(Math.max((level - 10) / 50, 0.02), 1)
  return (
    <div aria-hidden className="my-1 h-1.5 rounded-full bg-floor">
      <div className="h-full rounded-full bg-hush" style={{ width: `${share * 100}%` }} />
    </div>
  )
}
