import { useState } from 'react'
import { NextMoves } from '../../moves/next-moves'
import { useRoom } from '../../state/room'
import { useUnits, lengthText } from '../../state/units'
import { Button } from '../../ui/button'
import { HangOwn } from './hang-own'

const SURFACE_WORDS = (surface: string) => surface.replace('wall-', 'wall ')

export function TreatSide() {
  const { active, edit } = useRoom()
  const units = useUnits()
  const [hanging, setHanging] = useState(false)
  return (
    <div className="space-y-4">
      <section>
        <h2 className="mb-1 text-[1.1rem]">What hangs and lies here</h2>
        {active.treatments.length === 0 ? (
          <p className="text-[0.92rem] text-ink-2">Nothing yet. The list below starts with what you own.</p>
        ) : (
          <ul>
            {active.treatments.map((t, i) => (
              <li key={i} className="flex items-center justify-between gap-2 border-b border-line py-1.5 last:border-0">
                <span className="min-w-0 text-[0.93rem]">
                  <strong className="font-semibold">{t.label ?? t.kind}</strong>{' '}
                  <span className="text-ink-2">
                    {lengthText(t.width_m, units)} × {lengthText(t.height_m, units)} on {SURFACE_WORDS(t.surface)}
                  </span>
                </span>
                <Button small look="quiet" onClick={() => edit({ do: 'take-down', number: i })}>
                  Take down
                </Button>
              </li>
            ))}
          </ul>
        )}
        <Button small className="mt-2" onClick={() => setHanging(true)}>
          Hang something of your own
        </Button>
        {hanging ? <HangOwn onClose={() => setHanging(false)} /> : null}
      </section>
      <NextMoves />
    </div>
  )
}
