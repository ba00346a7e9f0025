import { lazy } from 'react'
import { useDesk } from '../../rooms/use-desk'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { toPx } from '../geometry'
import { Swell } from '../swell'
import { useSwell } from '../use-swell'
import type { Layer, PlanProps, SectionProps } from './layer'

function Plan({ view }: PlanProps) {
  const { mode } = useDesk()
  const map = useSwell('plan')
  return mode && map ? <Swell map={map} fHz={mode.f_hz} toPx={(p) => toPx(p, view)} pxPerM={view.pxPerM} /> : null
}

function Section({ along, px, pxPerM }: SectionProps) {
  const { mode } = useDesk()
  const map = useSwell(along === 'x' ? 'section-x' : 'section-y')
  return mode && map ? <Swell map={map} fHz={mode.f_hz} toPx={px} pxPerM={pxPerM} /> : null
}

/** The note that is painted, and its neighbours. */
function Tools() {
  const { active } = useRoom()
  const { mode, heard, paint, view, atEars, setAtEars } = useDesk()
  if (!mode) return null
  const shift = (by: number) => {
    const next = heard[Math.min(Math.max(heard.indexOf(mode) + by, 0), heard.length - 1)]
    if (next) paint(next.f_hz)
  }
  return (
    <div className="flex items-center gap-1 text-note">
      {active.listener && view !== 'section' ? (
        <Button
          small
          look="quiet"
          onClick={() => setAtEars(!atEars)}
          aria-label={`Painted at ${atEars ? 'ear' : 'mic'} height; change to ${atEars ? 'mic' : 'ear'} height`}
        >
          at {atEars ? 'ear' : 'mic'} height
        </Button>
      ) : null}
      <Button small look="quiet" onClick={() => shift(-1)} aria-label="Lower note">
        ‹
      </Button>
      <span className="min-w-44 text-center">
        <strong className="font-display">{mode.note}</strong>{' '}
        <span className="text-ink-2">
          {mode.f_hz.toFixed(0)} Hz, rings {mode.t60_s.toFixed(2)} s
        </span>
      </span>
      <Button small look="quiet" onClick={() => shift(1)} aria-label="Higher note">
        ›
      </Button>
    </div>
  )
}

export const swell: Layer = {
  key: 'swell',
  name: 'Swell',
  says: 'Where one note is strong, at mic height.',
  Plan,
  Section,
  Solid: lazy(() => import('../solid/swell-discs')),
  Tools,
}
