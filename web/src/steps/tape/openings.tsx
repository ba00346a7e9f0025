import type { RoomDoc } from '../../api/client'
import { ceilingAt, lengthOf, type Plan } from '../../room/plan-shape'
import { freeOnWall } from '../../room/floor'
import { wallsOf } from '../../room/geometry'
import { useFurnishingKinds } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { LengthField } from '../../ui/fields'
import { Segmented } from '../../ui/segmented'
import { Select } from '../../ui/select'
import { MaterialButton } from './material-picker'

type Opening = RoomDoc['openings'][number]
type Placed = Pick<Opening, 'surface' | 'x_m' | 'z_m' | 'width_m' | 'height_m'>
const STATES = [
  { key: 'shut', name: 'Shut' },
  { key: 'ajar', name: 'Ajar' },
  { key: 'open', name: 'Open' },
] as const
const BEHIND = [
  { key: 'outdoors', name: 'outdoors', hint: 'everything leaves' },
  { key: 'room', name: 'a furnished room', hint: 'a little comes back' },
  { key: 'stairs', name: 'stairs or a corridor', hint: 'about half comes back' },
]

/** Why something does not fit where it should hang, or null. */
export function useFits() {
  const { document } = useRoom()
  const plan = document.shape.plan as Plan
  return (o: Placed, part: Partial<Placed>): string | null => {
    const n = { ...o, ...part }
    if (!n.surface.startsWith('wall-')) return n.width_m > 0.02 && n.height_m > 0.02 ? null : 'Too small to matter.'
    const number = Number(n.surface.slice(5)) - 1
    const long = number < plan.length ? lengthOf(plan, number) : 0
    if (n.x_m < -1e-6 || n.x_m + n.width_m > long + 1e-6)
      return `It would reach past the end of the wall (${long.toFixed(2)} m).`
    const wall = wallsOf(document)[number]!
    const over = [n.x_m, n.x_m + n.width_m / 2, n.x_m + n.width_m].map((s) =>
      ceilingAt(document.shape.ceiling, [
        wall.from[0] + ((wall.to[0] - wall.from[0]) * s) / long - wall.outward[0] * 0.01,
        wall.from[1] + ((wall.to[1] - wall.from[1]) * s) / long - wall.outward[1] * 0.01,
      ]),
    )
    if (n.z_m + n.height_m > Math.min(...over) + 0.02)
      return `It would reach past the ceiling (${Math.min(...over).toFixed(2)} m there).`
    return n.width_m > 0.05 && n.height_m > 0.05 ? null : 'Too small to matter.'
  }
}

export function useWallOptions() {
  const { document } = useRoom()
  return document.shape.plan.map((_, i) => ({ key: `wall-${i + 1}`, name: `Wall ${i + 1}` }))
}

/** Doors and windows: where, how large, open or not, and what is behind. */
export function Openings() {
  const { document, active, change } = useRoom()
  const byKey = useFurnishingKinds()
  const fits = useFits()
  const walls = useWallOptions()
  const plan = document.shape.plan as Plan
  const spaceOf = (surface: string) => lengthOf(plan, Math.min(Number(surface.slice(5)) - 1, plan.length - 1))
  const high = Math.min(2.4, ceilingAt(document.shape.ceiling, plan[0]!))
  const set = (i: number, part: Partial<Opening>) =>
    change('opening', (now) => ({ ...now, openings: now.openings.map((o, k) => (k === i ? { ...o, ...part } : o)) }))
  const add = (kind: 'door' | 'window') => {
    const longest = `wall-${plan.map((_, i) => i).reduce((a, b) => (lengthOf(plan, b) > lengthOf(plan, a) ? b : a), 0) + 1}`
    const size =
      kind === 'door'
        ? { z_m: 0, height_m: Math.min(2, high - 0.05) }
        : { z_m: Math.min(0.9, high / 3), height_m: Math.max(Math.min(1.1, high - 1), 0.3) }
    // as wide as usual, or as wide as there is room for
    const placed = [1, 0.8, 0.6, 0.4]
      .map((share) => ({ ...size, width_m: Math.round((kind === 'door' ? 78 : 90) * share) / 100 }))
      .map((tried) => ({ ...tried, ...freeOnWall(document, active, byKey, tried, kind === 'door') }))
      .find((tried) => tried.surface)
    const next = {
      kind,
      hinge: 'left' as const,
      state: 'shut' as const,
      behind: (kind === 'door' ? 'room' : 'outdoors') as Opening['behind'],
      material: kind === 'door' ? 'door-wood' : 'glass-window',
      // a wall full of things takes it all the same: it is there, and can be put where it is
      ...{ ...size, surface: longest, x_m: 0.05, width_m: Math.min(0.78, spaceOf(longest) - 0.1), ...placed },
    }
    change(`add a ${kind}`, (now) => ({ ...now, openings: [...now.openings, next as Opening] }))
  }
  return (
    <div className="space-y-3">
      {document.openings.map((o, i) => (
        <div key={i} className="rounded-lg border border-line p-2.5">
          <div className="mb-1.5 flex items-center justify-between">
            <h3 className="font-semibold capitalize">{o.kind}</h3>
            <Button
              small
              look="quiet"
              onClick={() =>
                change(`remove the ${o.kind}`, (now) => ({ ...now, openings: now.openings.filter((_, k) => k !== i) }))
              }
            >
              Remove
            </Button>
          </div>
          <div className="mb-2 flex flex-wrap items-center gap-2">
            <Segmented
              small
              label={`The ${o.kind} is`}
              value={o.state}
              options={STATES}
              onChange={(state) => set(i, { state })}
            />
            {o.state !== 'shut' ? (
              <div className="min-w-36 flex-1">
                <Select
                  label="Behind it"
                  value={o.behind}
                  options={BEHIND}
                  onChange={(behind) => set(i, { behind: behind as Opening['behind'] })}
                />
              </div>
            ) : null}
          </div>
          <div className="grid grid-cols-2 gap-2">
            <Select
              label="In"
              value={o.surface}
              options={walls}
              onChange={(surface) =>
                set(i, {
                  surface,
                  width_m: Math.min(o.width_m, spaceOf(surface) - 0.02),
                  x_m: Math.min(o.x_m, Math.max(spaceOf(surface) - o.width_m, 0)),
                })
              }
            />
            <MaterialButton label="Made of" made={o} onChange={(made) => set(i, made)} />
            <LengthField
              label="From the wall's first corner"
              metres={o.x_m}
              check={(x_m) => fits(o, { x_m })}
              onChange={(x_m) => set(i, { x_m })}
            />
            <LengthField
              label="Above the floor"
              metres={o.z_m}
              check={(z_m) => fits(o, { z_m })}
              onChange={(z_m) => set(i, { z_m })}
            />
            <LengthField
              label="Wide"
              metres={o.width_m}
              check={(width_m) => fits(o, { width_m })}
              onChange={(width_m) => set(i, { width_m })}
            />
            <LengthField
              label="High"
              metres={o.height_m}
              check={(height_m) => fits(o, { height_m })}
              onChange={(height_m) => set(i, { height_m })}
            />
          </div>
        </div>
      ))}
      <div className="flex gap-2">
        <Button small onClick={() => add('door')}>
          Add a door
        </Button>
        <Button small onClick={() => add('window')}>
          Add a window
        </Button>
      </div>
    </div>
  )
}
