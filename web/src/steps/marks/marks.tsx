import type { Arrangement, Edit } from '../../api/client'
import { NextMoves } from '../../moves/next-moves'
import { ProveIt } from '../../moves/prove-it'
import { freeSpot } from '../../room/floor'
import { extentOf, turned } from '../../room/geometry'
import { ceilingAt, inside, type Plan } from '../../room/plan-shape'
import { useCatalogue, useFurnishingKinds } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { LengthField, NumberField } from '../../ui/fields'
import { Select } from '../../ui/select'
import { Group } from '../../ui/group'
import { BestPlaces } from './best-places'
import { Front } from './front'
import { SecondMic } from './second-mic'
import { ChainFields } from '../../marks/chain'
import { PutBack } from '../../marks/put-back'

export function MarksSide() {
  return (
    <div className="space-y-3">
      <Group title="Exact places">
        <Places />
      </Group>
      <Group title="How it is set">
        <ChainFields />
      </Group>
      <Group title="Which side is the front?">
        <Front />
      </Group>
      <BestPlaces />
      <PutBack />
      <ProveIt />
      <NextMoves />
    </div>
  )
}

function Places() {
  const { document, active, edit } = useRoom()
  const { patterns } = useCatalogue()
  const e = extentOf(document)
  const plan = document.shape.plan as Plan
  const within = (limit: number) => (m: number) =>
    m > 0 && m < limit ? null : `The room spans 0 to ${limit.toFixed(2)} m here; keep inside it.`
  /** Why a place on the floor cannot be, or null. */
  const outside = (x: number, y: number) =>
    inside(plan, [x, y]) ? null : 'That is outside the floor; keep inside the walls.'
  return (
    <div className="space-y-3">
      {(['performer', 'microphone'] as const).map((who) => {
        const at = active[who].at
        const put = (part: Partial<Place>) => edit({ ...standing(who, active), ...part })
        const place = (i: number, value: number) =>
          put({ at: [i === 0 ? value : at[0], i === 1 ? value : at[1], i === 2 ? value : at[2]] })
        return (
          <fieldset key={who} className="rounded-lg border border-line p-2.5">
            <legend className="px-1 font-semibold capitalize">{who}</legend>
            <div className="grid grid-cols-2 gap-2">
              <LengthField
                label="From the left"
                metres={at[0] - e.minX}
                check={(m) => within(e.maxX - e.minX)(m) ?? outside(m + e.minX, at[1])}
                onChange={(v) => place(0, v + e.minX)}
              />
              <LengthField
                label="From the bottom"
                metres={at[1] - e.minY}
                check={(m) => within(e.maxY - e.minY)(m) ?? outside(at[0], m + e.minY)}
                onChange={(v) => place(1, v + e.minY)}
              />
              <LengthField
                label={who === 'performer' ? 'Mouth height' : 'Capsule height'}
                metres={at[2]}
                check={within(ceilingAt(document.shape.ceiling, [at[0], at[1]]))}
                onChange={(v) => place(2, v)}
              />
              {who === 'performer' ? (
                <NumberField
                  label="Faces"
                  unit="°"
                  value={active.performer.faces_deg}
                  low={-360}
                  high={360}
                  onChange={(v) => put({ turn_deg: turned(v) })}
                />
              ) : (
                <NumberField
                  label="Aims"
                  unit="°"
                  value={active.microphone.aims_deg}
                  low={-360}
                  high={360}
                  onChange={(v) => put({ turn_deg: turned(v) })}
                />
              )}
              {who === 'microphone' ? (
                <>
                  <NumberField
                    label="Tilt up"
                    unit="°"
                    value={active.microphone.tilt_deg}
                    low={-90}
                    high={90}
                    onChange={(tilt_deg) => put({ tilt_deg })}
                  />
                  <Select
                    label="Pattern"
                    value={active.microphone.pattern}
                    options={patterns}
                    onChange={(pattern) => edit({ do: 'choose-pattern', who: 'microphone', pattern })}
                  />
                </>
              ) : null}
            </div>
          </fieldset>
        )
      })}
      <SecondMic />
      <Ears />
      <Laptop />
      <p className="text-small text-ink-2">0° looks to the right of the drawing, 90° to its top.</p>
    </div>
  )
}

type Place = Extract<Edit, { do: 'place' }>

/** Where somebody stands now, as an edit. */
function standing(who: 'performer' | 'microphone', { performer, microphone }: Arrangement): Place {
  const [at, turn_deg] =
    who === 'performer' ? [performer.at, performer.faces_deg] : [microphone.at, microphone.aims_deg]
  return { do: 'place', who, at, turn_deg, tilt_deg: microphone.tilt_deg }
}

const stands = (who: string, at: Place['at'], turn_deg: number): Place => ({
  do: 'place',
  who,
  at,
  turn_deg,
  tilt_deg: 0,
})

/** Monitors and a chair to listen from: put in as a pair with the chair at the triangle's tip, taken out again. */
function Ears() {
  const { document, active, edit } = useRoom()
  const kinds = useFurnishingKinds()
  const e = extentOf(document)
  if (active.monitors.length || active.listener)
    return (
      <fieldset className="rounded-lg border border-line p-2.5">
        <legend className="px-1 font-semibold">Monitors and chair</legend>
        <div className="grid grid-cols-2 gap-2">
          {active.monitors.length ? (
            <LengthField
              label="Monitor height"
              metres={active.monitors[0]!.at[2]}
              check={(m) => (m > 0.1 && m < 2.2 ? null : 'From 10 cm to 2.2 m.')}
              onChange={(z) =>
                edit(...active.monitors.map((m, i) => stands(`monitor-${i + 1}`, [m.at[0], m.at[1], z], m.faces_deg)))
              }
            />
          ) : null}
          {active.listener ? (
            <LengthField
              label="Ear height"
              metres={active.listener.at[2]}
              check={(m) => (m > 0.3 && m < 2.1 ? null : 'From 30 cm to 2.1 m.')}
              onChange={(z) => {
                const { at, faces_deg } = active.listener!
                edit(stands('chair', [at[0], at[1], z], faces_deg))
              }}
            />
          ) : null}
        </div>
        <Button
          small
          look="quiet"
          className="mt-1.5"
          onClick={() =>
            edit(
              ...active.monitors.map((_, i): Edit => ({
                do: 'take-out',
                who: `monitor-${active.monitors.length - i}`,
              })),
              ...(active.listener ? [{ do: 'take-out' as const, who: 'chair' }] : []),
            )
          }
        >
          Take them out
        </Button>
      </fieldset>
    )
  const add = () => {
    const [x, y] = [(e.minX + e.maxX) / 2, e.minY + 0.45]
    const spots: [number, number][] = [
      [x - 0.6, y],
      [x + 0.6, y],
      [x, y + 1.04],
    ]
    const [left, right, chair] = spots.map((p) => freeSpot(document, active, kinds, p, { z: 1.15, roomM: 0.3 }))
    edit(
      stands('monitor-1', [left![0], left![1], 1.15], 60),
      stands('monitor-2', [right![0], right![1], 1.15], 120),
      stands('chair', [chair![0], chair![1], 1.15], 270),
    )
  }
  return (
    <Button small onClick={add}>
      Put in monitors and a chair
    </Button>
  )
}

/** Laptop and interface: where they stand and how far their cables go. */
function Laptop() {
  const { document, active, edit, change } = useRoom()
  const kinds = useFurnishingKinds()
  const laptop = active.laptop
  const e = extentOf(document)
  if (!laptop) {
    const add = () => {
      const { at, faces_deg } = active.performer
      const aside = ((faces_deg - 60) * Math.PI) / 180
      const [x, y] = [at[0] + 0.7 * Math.cos(aside), at[1] + 0.7 * Math.sin(aside)]
      const spot = freeSpot(document, active, kinds, [x, y], { z: 0.8, roomM: 0.4 })
      edit(stands('laptop', [spot[0], spot[1], 0.8], turned(faces_deg + 120)))
    }
    return (
      <Button small onClick={add}>
        Put in laptop and interface
      </Button>
    )
  }
  const cables = (part: Partial<typeof laptop>) =>
    change('change a cable', (now) => ({
      ...now,
      arrangements: now.arrangements.map((a) =>
        a.id === active.id && a.laptop ? { ...a, laptop: { ...a.laptop, ...part } } : a,
      ),
    }))
  const cable = (m: number) => (m > 0 && m <= 100 ? null : 'Up to 100 m.')
  return (
    <fieldset className="rounded-lg border border-line p-2.5">
      <legend className="px-1 font-semibold">Laptop and interface</legend>
      <div className="grid grid-cols-2 gap-2">
        <LengthField
          label="Laptop height"
          metres={laptop.at[2]}
          check={(m) =>
            m > 0 && m < ceilingAt(document.shape.ceiling, [laptop.at[0], laptop.at[1]]) ? null : 'Below the ceiling.'
          }
          onChange={(z) => edit(stands('laptop', [laptop.at[0], laptop.at[1], z], laptop.faces_deg))}
        />
        <LengthField
          label="Screen from the left"
          metres={laptop.at[0] - e.minX}
          check={(m) => (inside(document.shape.plan as Plan, [m + e.minX, laptop.at[1]]) ? null : 'Inside the walls.')}
          onChange={(x) => edit(stands('laptop', [x + e.minX, laptop.at[1], laptop.at[2]], laptop.faces_deg))}
        />
        <LengthField
          label="Microphone cable"
          metres={laptop.mic_cable_m}
          check={cable}
          onChange={(mic_cable_m) => cables({ mic_cable_m })}
        />
        <LengthField
          label="Headphone cable"
          metres={laptop.phones_cable_m}
          check={cable}
          onChange={(phones_cable_m) => cables({ phones_cable_m })}
        />
      </div>
      <Button small look="quiet" className="mt-1.5" onClick={() => edit({ do: 'take-out', who: 'laptop' })}>
        Take it out
      </Button>
    </fieldset>
  )
}
