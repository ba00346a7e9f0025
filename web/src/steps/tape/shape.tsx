import { Menu, MenuButton, MenuItem, MenuItems } from '@headlessui/react'
import { type RoomDoc, type Schemas } from '../../api/client'
import { $api } from '../../api/client'
import { extentOf } from '../../room/geometry'
import {
  type Ceiling,
  cornerAdded,
  cornerRemoved,
  highestOf,
  lengthOf,
  type Plan,
  planTrouble,
  reshaped,
  TEMPLATES,
  templateCeiling,
  templatePlan,
  wallSized,
} from '../../room/plan-shape'
import { useRoom } from '../../state/room'
import { lengthText, useUnits } from '../../state/units'
import { Button } from '../../ui/button'
import { LengthField } from '../../ui/fields'
import { Group } from '../../ui/group'
import { Failed, Notice } from '../../ui/notice'
import { Select } from '../../ui/select'

const planOf = (document: RoomDoc) => document.shape.plan as Plan

/** Every wall with its length to be typed; a box shows its three sizes only. Corners are added and taken out here too. */
export function WallLengths({ chosen, onChoose }: { chosen: number | null; onChoose: (wall: number | null) => void }) {
  const { document, change } = useRoom()
  const plan = planOf(document)
  const check = (wall: number) => (metres: number) => {
    if (!(metres >= 0.05 && metres <= 25)) return `${metres.toFixed(2)} m: a wall here is 5 cm to 25 m. Check the unit.`
    return planTrouble(wallSized(plan, wall, metres))
  }
  const size = (wall: number, metres: number) =>
    change(`wall ${wall + 1}`, (now) => reshaped(now, wallSized(planOf(now), wall, metres)))
  const isBox = plan.length === 4 && [0, 1].every((i) => Math.abs(lengthOf(plan, i) - lengthOf(plan, i + 2)) < 1e-6)
  return (
    <div>
      <div className="mb-1.5 flex items-center justify-between gap-2">
        <p className="text-small text-ink-2">Type as you read it: 3.62, 362 cm, {`11' 10 1/2"`}.</p>
        <Menu>
          <MenuButton className="rounded-full border border-line-strong px-3 py-1 text-small font-semibold whitespace-nowrap hover:bg-floor">
            Start from ▾
          </MenuButton>
          <MenuItems
            anchor="bottom end"
            className="z-50 min-w-60 rounded-xl border border-line bg-card p-1 shadow-card"
          >
            {TEMPLATES.map((t) => (
              <MenuItem key={t.key}>
                <button
                  className="flex w-full items-center gap-3 rounded-lg px-3 py-1.5 text-left text-note data-focus:bg-felt-soft"
                  onClick={() =>
                    change(`start from ${t.name}`, (now) => {
                      const e = extentOf(now)
                      const [w, d] = [Math.max(e.maxX - e.minX, 0.8), Math.max(e.maxY - e.minY, 0.8)]
                      const fresh = { ...now, surfaces: uniform(now, templatePlan(t.key, w, d).length), tape: [] }
                      return reshaped(
                        fresh,
                        templatePlan(t.key, w, d),
                        templateCeiling(t.key, d, highestOf(now.shape.ceiling)),
                      )
                    })
                  }
                >
                  <Outline plan={templatePlan(t.key, 1.3, 1)} />
                  <span>
                    <strong className="font-semibold">{t.name}</strong> <span className="text-ink-2">{t.hint}</span>
                  </span>
                </button>
              </MenuItem>
            ))}
          </MenuItems>
        </Menu>
      </div>
      {isBox ? (
        <div className="grid grid-cols-2 gap-2">
          <LengthField label="Length" metres={lengthOf(plan, 0)} check={check(0)} onChange={(m) => size(0, m)} />
          <LengthField label="Width" metres={lengthOf(plan, 1)} check={check(1)} onChange={(m) => size(1, m)} />
        </div>
      ) : (
        <div className="grid grid-cols-3 gap-2">
          {plan.map((_, i) => (
            <div key={i} onFocus={() => onChoose(i)} className={chosen === i ? 'rounded-lg bg-change-soft' : ''}>
              <LengthField
                label={`Wall ${i + 1}`}
                metres={lengthOf(plan, i)}
                check={check(i)}
                onChange={(m) => size(i, m)}
              />
            </div>
          ))}
        </div>
      )}
      <div className="mt-2 flex flex-wrap items-center gap-2">
        <Button small onClick={() => change('add a corner', (now) => cornerAdded(now, chosen ?? longest(planOf(now))))}>
          Add a corner in wall {(chosen ?? longest(plan)) + 1}
        </Button>
        {plan.length > 3 && chosen !== null && planTrouble(plan.filter((_, i) => i !== chosen)) === null ? (
          <Button
            small
            look="quiet"
            onClick={() => {
              change('take out a corner', (now) => cornerRemoved(now, chosen))
              onChoose(null)
            }}
          >
            Take out its first corner
          </Button>
        ) : null}
      </div>
    </div>
  )
}

const longest = (plan: Plan) =>
  plan.map((_, i) => i).reduce((a, b) => (lengthOf(plan, b) > lengthOf(plan, a) + 1e-6 ? b : a), 0)

/** A new outline keeps floor and ceiling; its walls are made of what most walls were. */
function uniform(document: RoomDoc, walls: number): RoomDoc['surfaces'] {
  const kept = Object.fromEntries(Object.entries(document.surfaces).filter(([name]) => !name.startsWith('wall-')))
  const first = document.surfaces['wall-1'] ?? { material: 'plaster-on-brick', regions: [] }
  const wall = (i: number) => document.surfaces[`wall-${i}`] ?? { ...first, regions: [] }
  return { ...kept, ...Object.fromEntries(Array.from({ length: walls }, (_, i) => [`wall-${i + 1}`, wall(i + 1)])) }
}

function Outline({ plan }: { plan: Plan }) {
  return (
    <svg width="34" height="28" viewBox="-0.1 -0.1 1.5 1.4" aria-hidden className="shrink-0">
      <path
        d={`M${plan.map(([x, y]) => `${x} ${1.2 - y}`).join('L')}Z`}
        fill="var(--floor)"
        stroke="currentColor"
        strokeWidth="0.06"
      />
    </svg>
  )
}

const KINDS = [
  { key: 'flat', name: 'Flat' },
  { key: 'x', name: 'Slopes along its length' },
  { key: 'y', name: 'Slopes along its width' },
] as const

/** Flat or pitched, and parts that hang lower. */
export function CeilingFields() {
  const { document, change } = useRoom()
  const ceiling = document.shape.ceiling
  const e = extentOf(document)
  const set = (label: string, next: Ceiling) => change(label, (now) => reshaped(now, planOf(now), next))
  const high = highestOf(ceiling)
  const kind = ceiling.kind === 'pitched' ? (ceiling.along ?? 'x') : 'flat'
  const profile = ceiling.profile ?? []
  const heightCheck = (m: number) =>
    m >= 0.3 && m <= 25
      ? null
      : m < 0.3
        ? 'The ceiling would meet the floor: end the room with a low wall.'
        : 'Check the unit.'
  const drops = ceiling.drops
  return (
    <div className="space-y-2">
      <Select
        label="Ceiling"
        value={kind}
        options={[...KINDS]}
        onChange={(key) => {
          if (key === 'flat') return set('flat ceiling', { kind: 'flat', height_m: high, drops })
          const [low, end] = key === 'x' ? [e.minX, e.maxX] : [e.minY, e.maxY]
          const knee = Math.max(Math.round(high * 50) / 100, 0.4)
          set('pitched ceiling', {
            kind: 'pitched',
            along: key as 'x' | 'y',
            profile: [
              [low, knee],
              [(low + end) / 2, high],
              [end, knee],
            ],
            drops: [],
          })
        }}
      />
      {kind === 'flat' ? (
        <LengthField
          label="Height"
          metres={ceiling.height_m ?? 2.4}
          check={(m) => (m >= 0.5 && m <= 25 ? null : `${m.toFixed(2)} m: a room here is 0.5 to 25 m. Check the unit.`)}
          onChange={(height_m) => set('height', { ...ceiling, kind: 'flat', height_m })}
        />
      ) : (
        <div className="space-y-1.5">
          {profile.map(([d, h], i) => (
            <div key={i} className="grid grid-cols-[1fr_1fr_auto] items-end gap-2">
              <LengthField
                label={i === 0 ? `From the ${kind === 'x' ? 'left' : 'bottom'}` : 'then at'}
                metres={d - (kind === 'x' ? e.minX : e.minY)}
                check={(m) =>
                  m >= -0.001 && (i === 0 || m + (kind === 'x' ? e.minX : e.minY) >= profile[i - 1]![0])
                    ? null
                    : 'Distances must rise.'
                }
                onChange={(m) =>
                  set('slope', {
                    ...ceiling,
                    profile: profile.map((p, k) => (k === i ? [m + (kind === 'x' ? e.minX : e.minY), p[1]] : p)),
                  })
                }
              />
              <LengthField
                label="high"
                metres={h}
                check={heightCheck}
                onChange={(m) =>
                  set('slope', { ...ceiling, profile: profile.map((p, k) => (k === i ? [p[0], m] : p)) })
                }
              />
              <Button
                small
                look="quiet"
                disabled={profile.length <= 2}
                aria-label={`Remove point ${i + 1} of the slope`}
                onClick={() => set('slope', { ...ceiling, profile: profile.filter((_, k) => k !== i) })}
              >
                ✕
              </Button>
            </div>
          ))}
          <Button
            small
            onClick={() => {
              const [d, h] = profile[profile.length - 1]!
              const back = profile[profile.length - 2]!
              set('slope', {
                ...ceiling,
                profile: [...profile.slice(0, -1), [(back[0] + d) / 2, (back[1] + h) / 2], [d, h]],
              })
            }}
          >
            Add a bend
          </Button>
        </div>
      )}
      {drops.map((drop, i) => {
        const put = (part: Partial<typeof drop>) =>
          set('low part of the ceiling', { ...ceiling, drops: drops.map((d, k) => (k === i ? { ...d, ...part } : d)) })
        const positive = (m: number) => (m >= 0.05 ? null : 'At least 5 cm.')
        return (
          <fieldset key={i} className="rounded-lg border border-line p-2.5">
            <legend className="px-1 text-note font-semibold">Low part {i + 1}</legend>
            <div className="grid grid-cols-3 gap-2">
              <LengthField
                label="From the left"
                metres={drop.x_m - e.minX}
                onChange={(m) => put({ x_m: m + e.minX })}
              />
              <LengthField
                label="From the bottom"
                metres={drop.y_m - e.minY}
                onChange={(m) => put({ y_m: m + e.minY })}
              />
              <LengthField
                label="Its height"
                metres={drop.height_m}
                check={(m) => (m >= 0.3 && m < high - 0.01 ? null : `Lower than ${high.toFixed(2)} m.`)}
                onChange={(height_m) => put({ height_m })}
              />
              <LengthField
                label="Wide"
                metres={drop.width_m}
                check={positive}
                onChange={(width_m) => put({ width_m })}
              />
              <LengthField
                label="Deep"
                metres={drop.depth_m}
                check={positive}
                onChange={(depth_m) => put({ depth_m })}
              />
              <Button
                small
                look="quiet"
                className="self-end"
                onClick={() => set('remove the low part', { ...ceiling, drops: drops.filter((_, k) => k !== i) })}
              >
                Remove
              </Button>
            </div>
          </fieldset>
        )
      })}
      <Button
        small
        look="quiet"
        onClick={() =>
          set('low part of the ceiling', {
            ...ceiling,
            drops: [
              ...drops,
              {
                x_m: e.minX,
                y_m: drops.length % 2 ? e.maxY - Math.min(0.4, (e.maxY - e.minY) / 3) : e.minY,
                width_m: e.maxX - e.minX,
                depth_m: Math.min(0.4, (e.maxY - e.minY) / 3),
                height_m: Math.max(Math.round((high - 0.3) * 100) / 100, 0.4),
              },
            ],
          })
        }
      >
        A part of it hangs lower
      </Button>
    </div>
  )
}

/** Walls and diagonals as the tape had them: how far they disagree, and the plan that fits best. */
export function Square() {
  const { document, change } = useRoom()
  const units = useUnits()
  const plan = planOf(document)
  const readings = document.tape
  const fit = $api.useMutation('post', '/api/square')
  const corners = plan.map((_, i) => ({ key: String(i + 1), name: `corner ${i + 1}` }))
  const put = (tape: RoomDoc['tape']) => {
    fit.reset()
    change('tape reading', (now) => ({ ...now, tape }))
  }
  const adopt = (found: Schemas['SquaredAnswer']) =>
    change('square it up', (now) =>
      reshaped(
        now,
        found.plan.map(([x, y]) => [x, y] as const),
      ),
    )
  return (
    <Group title={`Check with diagonals (${readings.length})`}>
      <div className="space-y-2">
        <p className="text-small text-ink-2">
          Measure walls and corner to corner. Readings that do not agree show which one to take again.
        </p>
        {readings.map((r, i) => {
          const off = fit.data?.readings[i]?.residual_m
          const isSuspect = fit.data?.suspect === i
          return (
            <div
              key={i}
              className={`grid grid-cols-[1fr_1fr_1fr_auto] items-end gap-1.5 ${isSuspect ? 'rounded-lg bg-change-soft p-1' : ''}`}
            >
              <Select
                label="From"
                value={String(r.start)}
                options={corners}
                onChange={(v) => put(readings.map((x, k) => (k === i ? { ...x, start: Number(v) } : x)))}
              />
              <Select
                label="to"
                value={String(r.end)}
                options={corners}
                onChange={(v) => put(readings.map((x, k) => (k === i ? { ...x, end: Number(v) } : x)))}
              />
              <LengthField
                label={off === undefined ? 'Tape' : `Tape, off ${(off * 1000).toFixed(0)} mm`}
                metres={r.length_m}
                check={(m) => (m > 0.02 && m < 60 ? null : 'Check the unit.')}
                onChange={(length_m) => put(readings.map((x, k) => (k === i ? { ...x, length_m } : x)))}
              />
              <Button
                small
                look="quiet"
                aria-label={`Remove reading ${i + 1}`}
                onClick={() => put(readings.filter((_, k) => k !== i))}
              >
                ✕
              </Button>
            </div>
          )
        })}
        <div className="flex flex-wrap gap-2">
          <Button small onClick={() => put([...readings, nextReading(plan, readings)])}>
            Add a reading
          </Button>
          {readings.length ? (
            <Button small look="main" disabled={fit.isPending} onClick={() => fit.mutate({ body: { document } })}>
              Do they agree?
            </Button>
          ) : null}
        </div>
        <Failed error={fit.error} />
        {fit.data ? (
          <Notice
            tone={fit.data.suspect === null && fit.data.rms_m < 0.02 ? 'good' : 'care'}
            title={
              fit.data.suspect === null
                ? fit.data.rms_m < 0.02
                  ? `They agree within ${(fit.data.rms_m * 1000).toFixed(0)} mm.`
                  : `They disagree by ${(fit.data.rms_m * 1000).toFixed(0)} mm, and no single one is to blame.`
                : `Corner ${readings[fit.data.suspect]!.start} to ${readings[fit.data.suspect]!.end}: ${lengthText(readings[fit.data.suspect]!.length_m, units)} does not fit the others. Take it again.`
            }
            body={`Corners come out at ${fit.data.angles_deg.map((a) => `${a.toFixed(1)}°`).join(', ')}.`}
          >
            <Button small className="mt-1.5" onClick={() => adopt(fit.data)}>
              Use the plan that fits best
            </Button>
          </Notice>
        ) : null}
      </div>
    </Group>
  )
}

/** The next length worth taking: walls first, then diagonals. */
function nextReading(plan: Plan, readings: RoomDoc['tape']): RoomDoc['tape'][number] {
  const taken = new Set(readings.map((r) => [r.start, r.end].sort((a, b) => a - b).join()))
  const n = plan.length
  const pairs = [
    ...plan.map((_, i) => [i, (i + 1) % n] as const),
    ...plan.flatMap((_, i) => plan.map((_, j) => [i, j] as const).filter(([a, b]) => b - a > 1)),
  ]
  const [a, b] = pairs.find(([i, j]) => !taken.has([i + 1, j + 1].sort((p, q) => p - q).join())) ?? [0, 1]
  const length = Math.hypot(plan[b]![0] - plan[a]![0], plan[b]![1] - plan[a]![1])
  return { start: a + 1, end: b + 1, length_m: Math.round(length * 1000) / 1000 }
}
