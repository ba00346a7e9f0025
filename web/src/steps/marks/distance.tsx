import { area, line } from 'd3-shape'
import { type KeyboardEvent, type PointerEvent, useContext, useRef, useState } from 'react'
import { $api, type Edit } from '../../api/client'
import { BenchHeight } from '../../bench/height'
import { SaveMenu } from '../../plots/save-menu'
import { useWidth } from '../../plots/use-width'
import { useRoom } from '../../state/room'
import { shortText, type Units, useUnits } from '../../state/units'
import { useSettled } from '../../state/use-settled'
import { Segmented } from '../../ui/segmented'
import { type Distance, endsOf, figureAt, tapeScale } from './distance-scale'

const ROLES = [
  { key: 'lead', name: 'Lead' },
  { key: 'backing', name: 'Backing' },
  { key: 'soloist', name: 'Solo' },
  { key: 'section', name: 'Ensemble' },
] as const
const SCREENS = [
  { key: 'none', name: 'No screen' },
  { key: 'on', name: 'On it' },
  { key: 'off', name: '15 cm off' },
] as const
export type Asked = { role: (typeof ROLES)[number]['key']; screen: (typeof SCREENS)[number]['key'] }

/** What is sung or played, and what stands before the capsule. */
export function DistanceAsked({ asked, onChange }: { asked: Asked; onChange: (asked: Asked) => void }) {
  return (
    <>
      <Segmented
        small
        label="What is sung or played"
        value={asked.role}
        options={ROLES}
        onChange={(role) => onChange({ ...asked, role })}
      />
      <Segmented
        small
        label="Pop screen"
        value={asked.screen}
        options={SCREENS}
        onChange={(screen) => onChange({ ...asked, screen })}
      />
    </>
  )
}

/** What the way to the microphone does here: the room and the noise rise under the line of the voice as it grows. */
export function DistanceBench({ asked }: { asked: Asked }) {
  const { ask, enabled } = useSettled()
  const { data: curve } = $api.useQuery('post', '/api/distance', { body: { ...ask, ...asked } }, { enabled })
  return (
    <figure className="m-0" data-testid="plot-distance">
      {curve ? (
        <Curve curve={curve} />
      ) : (
        <div className="h-[16.2rem] animate-pulse rounded-lg bg-floor" aria-label="Working" />
      )}
    </figure>
  )
}

const M = { left: 62, right: 16, top: 14, bottom: 58 }
const TOP_DB = 16
const FLOOR_DB = -64
/** How far the whole arrangement may be dragged in one key press. */
const STEP = 1.05

function Curve({ curve }: { curve: Distance }) {
  const H = Math.max(useContext(BenchHeight), 170)
  const { box, w } = useWidth()
  const svg = useRef<SVGSVGElement>(null)
  const units = useUnits()
  const { active } = useRoom()
  const here = Math.hypot(...active.performer.at.map((v, i) => v - active.microphone.at[i]!))
  const ends = endsOf(curve)
  const { moveTo, letGo } = useDistance(here, ends)
  const [dragging, setDragging] = useState(false)
  const x = tapeScale(ends, M.left, w - M.right)
  const y = (db: number) =>
    M.top + ((TOP_DB - Math.max(Math.min(db, TOP_DB), FLOOR_DB)) / (TOP_DB - FLOOR_DB)) * (H - M.top - M.bottom)
  const tapeY = H - M.bottom + 8
  const under = (values: readonly (number | null)[]) =>
    curve.distance_m.map((d, i): [number, number | null] => [d, values[i] == null ? null : -values[i]!])
  const drawn = line<[number, number | null]>()
    .defined((p) => p[1] !== null)
    .x((p) => x(p[0]))
    .y((p) => y(p[1] ?? 0))
  const rising = area<[number, number | null]>()
    .defined((p) => p[1] !== null)
    .x((p) => x(p[0]))
    .y0(y(FLOOR_DB))
    .y1((p) => y(p[1] ?? 0))
  const swell = area<[number, number]>()
    .x((p) => x(p[0]))
    .y0(y(0))
    .y1((p) => y(p[1]))
  const toM = (clientX: number) => {
    const rect = svg.current!.getBoundingClientRect()
    return x.invert(((clientX - rect.left) / rect.width) * w)
  }
  const onPointer = (event: PointerEvent<SVGSVGElement>) => {
    if (event.type === 'pointerdown') {
      event.currentTarget.setPointerCapture(event.pointerId)
      setDragging(true)
    } else if (!dragging) return
    moveTo(toM(event.clientX), event.type === 'pointerup')
    if (event.type === 'pointerup') setDragging(false)
  }
  const onKey = (event: KeyboardEvent) => {
    const by = { ArrowRight: STEP, ArrowUp: STEP, ArrowLeft: 1 / STEP, ArrowDown: 1 / STEP }[event.key]
    if (!by) return
    event.preventDefault()
    moveTo(here * by, true)
  }
  const spans = curve.span
  const room = under(curve.bounce_db)
  const noise = under(curve.under_noise_db)
  const guessed = curve.flags.includes('noise_unknown')
  const reads = readout(curve, here, units)
  return (
    <>
      <figcaption className="flex items-start justify-between gap-3">
        <div className="min-h-[2.6em] text-note leading-snug">
          <h2 className="inline text-head">How far from the microphone? </h2>
          <p className="inline text-ink-2">{curve.sentence}</p>
        </div>
        <SaveMenu svg={svg} fileName="distance" csv={() => csvOfCurve(curve)} width={w} height={H} />
      </figcaption>
      <div ref={box} className="touch-none">
        <svg
          ref={svg}
          viewBox={`0 0 ${w} ${H}`}
          width={w}
          height={H}
          role="slider"
          tabIndex={0}
          aria-label="Distance to the microphone"
          aria-valuemin={ends[0]}
          aria-valuemax={ends[1]}
          aria-valuenow={Number(here.toFixed(3))}
          aria-valuetext={`${shortText(here, units)}. ${reads}`}
          onKeyDown={onKey}
          onPointerDown={onPointer}
          onPointerMove={onPointer}
          onPointerUp={onPointer}
          onPointerCancel={() => {
            setDragging(false)
            letGo()
          }}
          className="block cursor-ew-resize rounded-lg"
        >
          <rect x={M.left} y={y(0)} width={w - M.left - M.right} height={y(FLOOR_DB) - y(0)} fill="var(--paper)" />
          {[-30, -60].map((db) => (
            <g key={db}>
              <path d={`M${M.left} ${y(db)}H${w - M.right}`} stroke="var(--line)" />
              <text x={M.left - 6} y={y(db) + 4} fontSize={11.5} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
                −{-db} dB
              </text>
            </g>
          ))}
          <path
            d={swell(curve.distance_m.map((d, i) => [d, curve.proximity_db[i]!])) ?? ''}
            fill="var(--boom)"
            opacity={0.28}
          />
          <path d={rising(room) ?? ''} fill="var(--bounce)" opacity={0.1} />
          <path d={rising(noise) ?? ''} fill="var(--hush)" opacity={0.16} />
          <path
            d={drawn(under(curve.own_noise_db)) ?? ''}
            fill="none"
            stroke="var(--hush)"
            strokeWidth={1.2}
            strokeDasharray="1.5 4"
          />
          <path
            d={drawn(noise) ?? ''}
            fill="none"
            stroke="var(--hush)"
            strokeWidth={2.2}
            strokeDasharray={guessed ? '6 5' : undefined}
          />
          <path d={drawn(room) ?? ''} fill="none" stroke="var(--bounce)" strokeWidth={2.6} />
          <path d={`M${M.left} ${y(0)}H${w - M.right}`} stroke="var(--ink)" strokeWidth={2.6} strokeLinecap="round" />
          <path
            d={`M${M.left} ${y(quietest(curve))}H${w - M.right}`}
            stroke="var(--ink)"
            strokeWidth={1.2}
            strokeDasharray="5 4"
          />
          <Puffs curve={curve} x={x} y0={y(TOP_DB) + 4} />
          <Said x={M.left - 6} y={y(0) + 4} text="you" strong />
          <Said x={M.left - 6} y={y(quietest(curve)) + 4} text="quietest" />
          <Along x={w - M.right - 4} y={y(-(curve.bounce_db.at(-1) ?? 0)) - 7} text="the room" colour="var(--bounce)" />
          <Along
            x={w - M.right - 4}
            y={y(-(curve.under_noise_db.at(-1) ?? 60)) - 7}
            text={guessed ? 'noise, a guess' : 'noise'}
            colour="var(--hush)"
          />
          <Along
            x={w - M.right - 4}
            y={y(-(curve.own_noise_db.at(-1) ?? 60)) - 6}
            text={curve.flags.includes('own_noise_generic') ? 'hiss of a common chain' : 'hiss of yours'}
            colour="var(--ink-2)"
          />
          <text x={x(0.19)} y={y(2.6)} fontSize={12} style={{ fill: 'var(--boom)' }} fontWeight={600}>
            bass lift
          </text>
          <Tape x={x} y={tapeY} w={w} units={units} />
          {spans ? <Felt x0={x(spans.from_m)} x1={x(spans.to_m)} y={tapeY} meets={spans.meets} /> : null}
          <Pins curve={curve} x={x} y={tapeY} onChoose={(m) => moveTo(m, true)} />
          <g transform={`translate(${x(here)} 0)`}>
            <path d={`M0 ${M.top}V${tapeY}`} stroke="var(--ink)" strokeWidth={1.4} strokeDasharray="2 3" />
            {[
              -(figureAt(curve, curve.bounce_db, here) ?? NaN),
              -(figureAt(curve, curve.under_noise_db, here) ?? NaN),
            ].map((db, i) =>
              Number.isFinite(db) ? (
                <circle
                  key={i}
                  cy={y(db)}
                  r={5}
                  fill={i ? 'var(--hush)' : 'var(--bounce)'}
                  stroke="var(--card)"
                  strokeWidth={1.6}
                />
              ) : null,
            )}
            <path
              d={`M-8 ${tapeY - 8}L8 ${tapeY + 8}M-8 ${tapeY + 8}L8 ${tapeY - 8}`}
              stroke="var(--change)"
              strokeWidth={4}
            />
          </g>
        </svg>
      </div>
      <p className="min-h-[2.5em] text-small leading-snug" aria-live="polite" data-testid="distance-reads">
        <strong className="font-display">At {shortText(here, units)}</strong>, as predicted, {reads}
      </p>
    </>
  )
}

/** Moves the microphone on its line from the performer; while dragged it is only shown. */
function useDistance(here: number, [nearest, furthest]: readonly [number, number]) {
  const { active, edit, drag, preview } = useRoom()
  const moveTo = (metres: number, forGood: boolean) => {
    const to = Math.min(Math.max(metres, nearest), furthest)
    const at = active.performer.at.map((v, i) => v + ((active.microphone.at[i]! - v) * to) / here)
    const moved: Edit = {
      do: 'place',
      who: 'microphone',
      at: [at[0]!, at[1]!, at[2]!],
      turn_deg: active.microphone.aims_deg,
      tilt_deg: active.microphone.tilt_deg,
    }
    if (forGood) edit(moved)
    else drag(moved)
  }
  return { moveTo, letGo: () => preview(null) }
}

/** How far a quietest phrase lies under the usual one. [dB] */
const quietest = (curve: Distance) => {
  const i = curve.under_noise_db.findIndex((v) => v !== null)
  return (curve.quietest_db[i] ?? 0) - (curve.under_noise_db[i] ?? 0)
}

function readout(curve: Distance, here: number, units: Units): string {
  const at = (values: readonly (number | null)[]) => figureAt(curve, values, here)
  const said = (value: number | null, digits = 0) => (value === null ? '–' : value.toFixed(digits).replace('-', '−'))
  const [bounce, noise, lift, sway, bass, puff, sounds] = [
    at(curve.bounce_db),
    at(curve.under_noise_db),
    at(curve.proximity_db),
    at(curve.sway_db),
    at(curve.sway_bass_db),
    at(curve.puff),
    at(curve.sounds_m),
  ]
  if (bounce === null) return 'no microphone can stand: it would be in a wall.'
  return [
    `you lie ${said(bounce, 1)} dB over the room, as if heard from ${sounds === null ? '–' : shortText(sounds, units)} away`,
    curve.flags.includes('noise_unknown')
      ? 'noise is not known: note it, or take a silence'
      : `noise ${said(noise)} dB under you`,
    `bass lifted ${said(lift, 1)} dB`,
    `5 cm nearer is ${said(sway, 1)} dB louder${bass !== null && bass >= 0.5 ? ` with ${said(bass, 1)} dB more bass` : ''}`,
    curve.bleed_db ? `your phones ${said(figureAt(curve, curve.bleed_db, here))} dB under you` : '',
    puff !== null && puff > 1 ? 'a p pops' : puff !== null && puff > 0.25 ? 'a hard p may pop' : '',
  ]
    .filter(Boolean)
    .join('; ')
    .concat('.')
}

const Said = ({ x, y, text, strong = false }: { x: number; y: number; text: string; strong?: boolean }) => (
  <text
    x={x}
    y={y}
    fontSize={12}
    fontWeight={strong ? 650 : 400}
    textAnchor="end"
    style={{ fill: strong ? 'var(--ink)' : 'var(--ink-2)' }}
  >
    {text}
  </text>
)

const Along = ({ x, y, text, colour }: { x: number; y: number; text: string; colour: string }) => (
  <text
    x={x}
    y={y}
    fontSize={12.5}
    fontWeight={650}
    textAnchor="end"
    stroke="var(--card)"
    strokeWidth={3.5}
    paintOrder="stroke"
    style={{ fill: colour }}
  >
    {text}
  </text>
)

type Scale = ReturnType<typeof tapeScale>

/** Breath as it is pushed: round puffs as large as what they do to the capsule. */
const Puffs = ({ curve, x, y0 }: { curve: Distance; x: Scale; y0: number }) => (
  <g fill="none" stroke="var(--touch)" strokeWidth={1.2}>
    {curve.distance_m.map((d, i) => {
      const r = Math.min(Math.sqrt(curve.puff[i]!) * 5, 9)
      return i % 2 === 0 && r > 0.8 ? <circle key={d} cx={x(d)} cy={y0 + 6} r={r} /> : null
    })}
  </g>
)

/** Of values in order, those that stand at least so far from the last that was kept. */
function spaced(values: readonly number[], x: Scale, leastPx: number): number[] {
  const kept: number[] = []
  for (const v of values) if (kept.length === 0 || x(v) - x(kept.at(-1)!) >= leastPx) kept.push(v)
  return kept
}

const TICKS_M = [0.03, 0.05, 0.1, 0.2, 0.3, 0.5, 1, 1.5, 2.5]

function Tape({ x, y, w, units }: { x: Scale; y: number; w: number; units: Units }) {
  return (
    <g>
      <rect
        x={M.left - 8}
        y={y - 6}
        width={w - M.left - M.right + 16}
        height={12}
        rx={3}
        fill="var(--card)"
        stroke="var(--line-strong)"
      />
      {spaced(TICKS_M, x, 40).map((m) => (
        <g key={m}>
          <path d={`M${x(m)} ${y - 6}V${y + 6}`} stroke="var(--line-strong)" />
          <text x={x(m)} y={y + 20} fontSize={11.5} textAnchor="middle" style={{ fill: 'var(--ink-2)' }}>
            {units === 'metric' && m >= 1 ? `${m.toFixed(1)} m` : shortText(m, units)}
          </text>
        </g>
      ))}
    </g>
  )
}

/** The span that gives all that is wanted; a bare ring where none does. */
const Felt = ({ x0, x1, y, meets }: { x0: number; x1: number; y: number; meets: boolean }) =>
  meets ? (
    <rect
      x={x0}
      y={y - 6}
      width={Math.max(x1 - x0, 4)}
      height={12}
      rx={6}
      fill="var(--felt)"
      opacity={0.85}
      data-testid="span"
    />
  ) : (
    <circle
      cx={x0}
      cy={y}
      r={9}
      fill="none"
      stroke="var(--felt)"
      strokeWidth={2}
      strokeDasharray="3 3"
      data-testid="span"
    />
  )

/** Usual advice as pins on the same tape. */
function Pins({ curve, x, y, onChoose }: { curve: Distance; x: Scale; y: number; onChoose: (m: number) => void }) {
  const named = new Set(
    spaced(
      curve.pins.map((p) => p.distance_m),
      x,
      76,
    ),
  )
  return (
    <g>
      {curve.pins.map((pin) => (
        <g
          key={pin.name}
          className="cursor-pointer"
          onPointerDown={(e) => {
            e.stopPropagation()
            onChoose(pin.distance_m)
          }}
        >
          <path d={`M${x(pin.distance_m)} ${y + 24}V${y + 30}`} stroke="var(--ink-2)" />
          {named.has(pin.distance_m) ? (
            <text
              x={Math.max(x(pin.distance_m), M.left + 6)}
              y={y + 42}
              fontSize={11.5}
              fontStyle="italic"
              textAnchor="middle"
              style={{ fill: 'var(--ink-2)' }}
            >
              {pin.name}
            </text>
          ) : null}
        </g>
      ))}
    </g>
  )
}

const csvOfCurve = (curve: Distance) =>
  [
    'distance [m],bounce [dB],noise under [dB],own noise under [dB],lift at 100 Hz [dB],puff,5 cm nearer [dB],sounds like [m]',
    ...curve.distance_m.map((d, i) =>
      [
        d,
        curve.bounce_db[i],
        curve.under_noise_db[i],
        curve.own_noise_db[i],
        curve.proximity_db[i],
        curve.puff[i],
        curve.sway_db[i],
        curve.sounds_m[i],
      ]
        .map((v) => v ?? '')
        .join(','),
    ),
    '',
  ].join('\n')
