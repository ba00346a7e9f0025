import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { Check } from '../../ui/fields'
import { clock } from '../../ui/clock'
import { Caution } from '../../ui/notice'

/** Which noises there are, how loud each is at the microphone, and what may be switched off. */
export function HushSide() {
  const { document, active, edit } = useRoom()
  const { active: predicted } = usePredicted()
  const levels = predicted?.marks.hush.sources_dba ?? {}
  const { silenced } = active
  return (
    <div className="space-y-3">
      <h2 className="text-[1.1rem]">What may be switched off</h2>
      {typeof active.hour === 'number' ? (
        <p className="text-[0.9rem] text-ink-2">As heard when you record at {clock(active.hour)} (drag the hour).</p>
      ) : null}
      {document.noises.length === 0 ? (
        <p className="text-[0.92rem] text-ink-2">
          No noise is noted. Record a silence in Listen: it names hums and levels.
        </p>
      ) : (
        <ul>
          {document.noises.map((noise) => {
            const level = levels[noise.name]
            const off = silenced.includes(noise.name)
            return (
              <li key={noise.name} className="border-b border-line py-2 last:border-0">
                <div className="flex items-baseline justify-between gap-2">
                  <span className="font-semibold">{noise.name}</span>
                  <span className="text-[0.92rem] whitespace-nowrap text-ink-2">
                    {level !== undefined
                      ? `${level.toFixed(0)} dB(A) at the mic`
                      : !predicted
                        ? '…'
                        : off
                          ? 'switched off'
                          : 'not at this hour'}
                  </span>
                </div>
                <Meter level={level ?? null} />
                <p className="text-[0.85rem] text-ink-2">
                  {noise.kind === 'inside'
                    ? 'in the room'
                    : `through ${(noise.surface ?? 'the wall').replace('wall-', 'wall ')}`}
                  {(noise.hours ?? []).length
                    ? ` · ${(noise.hours ?? []).map(([a, b]) => `${clock(a)} to ${clock(b)}`).join(', ')}`
                    : ' · always'}
                </p>
                {noise.kind === 'inside' ? (
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
      <Caution text="Hum from wiring is an electrician’s business: never lift a safety earth." />
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
