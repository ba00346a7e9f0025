import type { RoomDoc } from '../../api/client'
import { extentOf } from '../../room/geometry'
import { ceilingAt, lengthOf, type Plan } from '../../room/plan-shape'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Check, LengthField, NumberField } from '../../ui/fields'
import { Select } from '../../ui/select'
import { useFits, useWallOptions } from './openings'

type Cover = RoomDoc['covers'][number]
const WEIGHTS = [
  { key: '0.15', name: 'thin, see-through', hint: '0.15 kg/m²' },
  { key: '0.35', name: 'ordinary curtain', hint: '0.35 kg/m²' },
  { key: '0.6', name: 'heavy, lined', hint: '0.6 kg/m²' },
  { key: '0.9', name: 'thick blanket, velvet', hint: '0.9 kg/m²' },
]

/** Cloth that belongs to the room: curtains (drawn or not), rugs, blankets. */
export function Covers() {
  const { document, change } = useRoom()
  const fits = useFits()
  const walls = useWallOptions()
  const e = extentOf(document)
  const plan = document.shape.plan as Plan
  const set = (i: number, part: Partial<Cover>) =>
    change('cover', (now) => ({ ...now, covers: now.covers.map((c, k) => (k === i ? { ...c, ...part } : c)) }))
  const add = (kind: Cover['kind']) => {
    const window = document.openings.find((o) => o.kind === 'window')
    const surface = kind === 'rug' ? 'floor' : (window?.surface ?? 'wall-1')
    const long = kind === 'rug' ? 0 : lengthOf(plan, Number(surface.slice(5)) - 1)
    const high = kind === 'rug' ? 0 : ceilingAt(document.shape.ceiling, plan[0]!)
    const cloth = {
      kind,
      surface,
      drawn: true,
      weight_kg_m2: kind === 'blanket' ? 0.6 : 0.35,
      fullness: kind === 'blanket' ? 1.2 : 2,
      gap_m: kind === 'blanket' ? 0.03 : 0.1,
    }
    const next: Cover =
      kind === 'rug'
        ? {
            ...cloth,
            x_m: (e.minX + e.maxX) / 2 - 0.6,
            z_m: (e.minY + e.maxY) / 2 - 0.4,
            width_m: 1.2,
            height_m: 0.8,
            material: 'carpet-cotton',
          }
        : kind === 'curtain' && window
          ? {
              ...cloth,
              x_m: Math.max(window.x_m - 0.12, 0),
              width_m: Math.min(window.width_m + 0.24, long - Math.max(window.x_m - 0.12, 0)),
              z_m: Math.max(window.z_m - 0.3, 0),
              height_m: Math.min(window.height_m + 0.45, high - Math.max(window.z_m - 0.3, 0) - 0.02),
            }
          : {
              ...cloth,
              x_m: 0.1,
              width_m: Math.min(1.4, long - 0.2),
              z_m: 0.4,
              height_m: Math.max(Math.min(1.6, high - 0.5), 0.3),
            }
    change(`add a ${kind}`, (now) => ({ ...now, covers: [...now.covers, next] }))
  }
  return (
    <div className="space-y-3">
      {document.covers.map((c, i) => {
        const flat = c.kind === 'rug'
        return (
          <div key={i} className="rounded-lg border border-line p-2.5">
            <div className="mb-1.5 flex items-center justify-between">
              <h3 className="font-semibold capitalize">{c.kind}</h3>
              <Button
                small
                look="quiet"
                onClick={() =>
                  change(`remove the ${c.kind}`, (now) => ({ ...now, covers: now.covers.filter((_, k) => k !== i) }))
                }
              >
                Remove
              </Button>
            </div>
            {c.kind === 'curtain' ? (
              <Check label="Drawn across" checked={c.drawn} onChange={(drawn) => set(i, { drawn })} />
            ) : null}
            <div className="grid grid-cols-2 gap-2">
              {flat ? null : (
                <Select
                  label="On"
                  value={c.surface}
                  options={walls}
                  onChange={(surface) =>
                    set(i, {
                      surface,
                      x_m: 0,
                      width_m: Math.min(c.width_m, lengthOf(plan, Number(surface.slice(5)) - 1)),
                    })
                  }
                />
              )}
              {flat ? null : (
                <Select
                  label="Cloth"
                  value={
                    WEIGHTS.reduce((a, b) =>
                      Math.abs(Number(b.key) - c.weight_kg_m2) < Math.abs(Number(a.key) - c.weight_kg_m2) ? b : a,
                    ).key
                  }
                  options={WEIGHTS}
                  onChange={(w) => set(i, { weight_kg_m2: Number(w) })}
                />
              )}
              <LengthField
                label={flat ? 'From the left' : "From the wall's first corner"}
                metres={flat ? c.x_m - e.minX : c.x_m}
                check={(x_m) => (flat ? null : fits(c, { x_m }))}
                onChange={(m) => set(i, { x_m: flat ? m + e.minX : m })}
              />
              <LengthField
                label={flat ? 'From the bottom' : 'Above the floor'}
                metres={flat ? c.z_m - e.minY : c.z_m}
                check={(z_m) => (flat ? null : fits(c, { z_m }))}
                onChange={(m) => set(i, { z_m: flat ? m + e.minY : m })}
              />
              <LengthField
                label="Wide"
                metres={c.width_m}
                check={(width_m) => fits(c, { width_m })}
                onChange={(width_m) => set(i, { width_m })}
              />
              <LengthField
                label={flat ? 'Deep' : 'High'}
                metres={c.height_m}
                check={(height_m) => fits(c, { height_m })}
                onChange={(height_m) => set(i, { height_m })}
              />
              {flat ? null : (
                <LengthField
                  label="Off the wall"
                  metres={c.gap_m}
                  check={(m) => (m >= 0.005 && m <= 1 ? null : 'From 5 mm to 1 m.')}
                  onChange={(gap_m) => set(i, { gap_m })}
                />
              )}
              {flat ? null : (
                <NumberField
                  label="Fullness"
                  unit="×"
                  value={c.fullness}
                  low={1}
                  high={3}
                  digits={1}
                  onChange={(fullness) => set(i, { fullness })}
                />
              )}
            </div>
          </div>
        )
      })}
      <div className="flex flex-wrap gap-2">
        <Button small onClick={() => add('curtain')}>
          Add a curtain
        </Button>
        <Button small onClick={() => add('rug')}>
          Add a rug
        </Button>
        <Button small onClick={() => add('blanket')}>
          Add a blanket
        </Button>
      </div>
      <p className="text-small text-ink-2">Keep cloth off heaters, lamps and candles; rugs want a non-slip mat.</p>
    </div>
  )
}
