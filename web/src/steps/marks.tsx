import { useQuery } from '@tanstack/react-query'
import type { Arrangement } from '../api/client'
import { roomQueries } from '../api/queries'
import { NextMoves } from '../moves/next-moves'
import { extentOf, turned } from '../room/geometry'
import { ceilingAt, inside, type Plan } from '../room/plan-shape'
import { useRoom, withArrangement } from '../state/room'
import { Button } from '../ui/button'
import { LengthField, NumberField } from '../ui/fields'
import { Select } from '../ui/select'
import { Group } from '../ui/group'

const PATTERN_HINTS: Record<string, string> = {
  omni: 'hears all round, no bass lift',
  subcardioid: 'a little towards the front',
  cardioid: 'front, deaf behind: the usual one',
  supercardioid: 'narrower, deaf to the sides behind',
  hypercardioid: 'narrowest of the family',
  'figure-8': 'front and back, deaf to the sides',
}

export function MarksPanel() {
  return (
    <div className="space-y-3">
      <Group title="Exact places" open={false}>
        <Places />
      </Group>
      <NextMoves />
    </div>
  )
}

function Places() {
  const { document, active, change } = useRoom()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const e = extentOf(document)
  const plan = document.shape.plan as Plan
  const within = (limit: number) => (m: number) =>
    m > 0 && m < limit ? null : `The room spans 0 to ${limit.toFixed(2)} m here; keep inside it.`
  /** Why a place on the floor cannot be, or null. */
  const stands = (x: number, y: number) =>
    inside(plan, [x, y]) ? null : 'That is outside the floor; keep inside the walls.'
  const set = (label: string, next: Arrangement) => change(label, (now) => withArrangement(now, next))
  return (
    <div className="space-y-3">
      {(['performer', 'microphone'] as const).map((who) => {
        const at = active[who].at
        const place = (i: number, value: number) =>
          set(`place the ${who}`, {
            ...active,
            [who]: { ...active[who], at: at.map((v, k) => (k === i ? value : v)) as [number, number, number] },
          })
        return (
          <fieldset key={who} className="rounded-lg border border-line p-2.5">
            <legend className="px-1 font-semibold capitalize">{who}</legend>
            <div className="grid grid-cols-2 gap-2">
              <LengthField
                label="From the left"
                metres={at[0] - e.minX}
                check={(m) => within(e.maxX - e.minX)(m) ?? stands(m + e.minX, at[1])}
                onChange={(v) => place(0, v + e.minX)}
              />
              <LengthField
                label="From the bottom"
                metres={at[1] - e.minY}
                check={(m) => within(e.maxY - e.minY)(m) ?? stands(at[0], m + e.minY)}
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
                  onChange={(v) =>
                    set('turn the performer', { ...active, performer: { ...active.performer, faces_deg: turned(v) } })
                  }
                />
              ) : (
                <NumberField
                  label="Aims"
                  unit="°"
                  value={active.microphone.aims_deg}
                  low={-360}
                  high={360}
                  onChange={(v) =>
                    set('turn the microphone', { ...active, microphone: { ...active.microphone, aims_deg: turned(v) } })
                  }
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
                    onChange={(tilt_deg) =>
                      set('tilt the microphone', { ...active, microphone: { ...active.microphone, tilt_deg } })
                    }
                  />
                  <Select
                    label="Pattern"
                    value={active.microphone.pattern}
                    options={(catalogue?.patterns ?? []).map((key) => ({
                      key,
                      name: key,
                      hint: PATTERN_HINTS[key] ?? '',
                    }))}
                    onChange={(pattern) => set('pattern', { ...active, microphone: { ...active.microphone, pattern } })}
                  />
                </>
              ) : null}
            </div>
          </fieldset>
        )
      })}
      <Ears />
      <p className="text-[0.84rem] text-ink-2">0° looks to the right of the drawing, 90° to its top.</p>
    </div>
  )
}

/** Monitors and a chair to listen from: put in as a pair with the chair at the triangle's tip, taken out again. */
function Ears() {
  const { document, active, change } = useRoom()
  const e = extentOf(document)
  const plan = document.shape.plan as Plan
  const set = (label: string, next: Arrangement) => change(label, (now) => withArrangement(now, next))
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
                set('monitor height', {
                  ...active,
                  monitors: active.monitors.map((m) => ({ ...m, at: [m.at[0], m.at[1], z] })),
                })
              }
            />
          ) : null}
          {active.listener ? (
            <LengthField
              label="Ear height"
              metres={active.listener.at[2]}
              check={(m) => (m > 0.3 && m < 2.1 ? null : 'From 30 cm to 2.1 m.')}
              onChange={(z) =>
                set('ear height', {
                  ...active,
                  listener: { ...active.listener!, at: [active.listener!.at[0], active.listener!.at[1], z] },
                })
              }
            />
          ) : null}
        </div>
        <Button
          small
          look="quiet"
          className="mt-1.5"
          onClick={() => set('take out the monitors', { ...active, monitors: [], listener: null })}
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
    const [left, right, chair] = spots.map((p) => (inside(plan, p) ? p : clearIn(plan, p)))
    set('put in monitors and a chair', {
      ...active,
      monitors: [
        { at: [left![0], left![1], 1.15], faces_deg: 60 },
        { at: [right![0], right![1], 1.15], faces_deg: 120 },
      ],
      listener: { at: [chair![0], chair![1], 1.15], faces_deg: 270 },
    })
  }
  return (
    <Button small onClick={add}>
      Put in monitors and a chair
    </Button>
  )
}

/** The nearest spot on the way to the middle of the floor that lies inside. */
function clearIn(plan: Plan, from: readonly [number, number]): [number, number] {
  const middle = plan.reduce(([a, b], [x, y]) => [a + x / plan.length, b + y / plan.length] as const, [0, 0] as const)
  for (let t = 0.1; t <= 1; t += 0.1) {
    const at: [number, number] = [from[0] + (middle[0] - from[0]) * t, from[1] + (middle[1] - from[1]) * t]
    if (inside(plan, at)) return at
  }
  return [from[0], from[1]]
}
