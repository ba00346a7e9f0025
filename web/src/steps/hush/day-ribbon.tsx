import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { useWidth } from '../../plots/use-width'
import { along, ENDS } from '../../marks/scales'
import { clock } from '../../ui/clock'

const LEFT = 132
const RIGHT = 12
const ROW = 27
const LANE = 56
const TOP = 8

/** The hours that a noise runs, cut at midnight. */
export function stretches(hours: readonly (readonly [number, number])[]): [number, number][] {
  if (hours.length === 0) return [[0, 24]]
  return hours.flatMap(([a, b]): [number, number][] =>
    a <= b
      ? [[a, b]]
      : [
          [a, 24],
          [0, b],
        ],
  )
}

/** The day from midnight to midnight: a row for each noise, how quiet that makes it, and the hour of recording to drag. */
export function DayRibbon() {
  const { document, active, edit, drag } = useRoom()
  const { active: predicted } = usePredicted()
  const { box, w } = useWidth()
  const { noises } = document
  const hush = predicted?.marks.hush
  const hour = active.hour ?? 11
  const x = (h: number) => LEFT + (h / 24) * (w - LEFT - RIGHT)
  const lane = TOP + Math.max(noises.length, 1) * ROW + 8
  const H = lane + LANE + 20
  const low = hush?.wanted.low ?? 40
  const y = (db: number) => lane + LANE - along('hush', db) * LANE
  const top = ENDS.hush[1]
  return (
    <section aria-label="The day" className="shrink-0" data-testid="day-ribbon">
      <div ref={box} className="relative">
        <svg viewBox={`0 0 ${w} ${H}`} width={w} height={H} role="img" aria-label={summary(noises, hush?.day ?? [])}>
          <defs>
            <pattern id="noise-weave" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <path d="M0 0V7" stroke="var(--hush)" strokeWidth="2" opacity="0.55" />
            </pattern>
          </defs>
          {[0, 3, 6, 9, 12, 15, 18, 21, 24].map((h) => (
            <g key={h}>
              <path d={`M${x(h)} ${TOP}V${lane + LANE}`} stroke="var(--line)" />
              <text
                x={x(h)}
                y={H - 5}
                fontSize={11.5}
                textAnchor={h === 24 ? 'end' : h === 0 ? 'start' : 'middle'}
                style={{ fill: 'var(--ink-2)' }}
              >
                {String(h).padStart(2, '0')}
              </text>
            </g>
          ))}
          {noises.length === 0 ? (
            <text x={LEFT} y={TOP + 18} fontSize={13} style={{ fill: 'var(--ink-2)' }}>
              No noise is noted yet.
            </text>
          ) : null}
          {noises.map((noise, i) => {
            const off = active.silenced.includes(noise.name)
            const y0 = TOP + i * ROW
            return (
              <g key={noise.name}>
                <text x={0} y={y0 + 16} fontSize={12.5} fontWeight={600}>
                  {noise.name.length > 19 ? `${noise.name.slice(0, 18)}…` : noise.name}
                </text>
                {stretches((noise.hours ?? []) as [number, number][]).map(([a, b]) => (
                  <g key={a}>
                    <rect
                      x={x(a)}
                      y={y0 + 4}
                      width={Math.max(x(b) - x(a), 3)}
                      height={ROW - 11}
                      rx={5}
                      fill={off ? 'none' : 'var(--card)'}
                      stroke="var(--hush)"
                      strokeDasharray={off ? '3 3' : undefined}
                    />
                    {off ? null : (
                      <rect
                        x={x(a)}
                        y={y0 + 4}
                        width={Math.max(x(b) - x(a), 3)}
                        height={ROW - 11}
                        rx={5}
                        fill="url(#noise-weave)"
                      />
                    )}
                  </g>
                ))}
              </g>
            )
          })}
          {hush && hush.day.length ? (
            <g>
              <text x={0} y={lane + 14} fontSize={12.5} fontWeight={600}>
                How far under you
              </text>
              <text x={0} y={lane + 30} fontSize={11.5} style={{ fill: 'var(--ink-2)' }}>
                predicted, dB
              </text>
              <rect
                x={x(0)}
                y={y(top)}
                width={x(24) - x(0)}
                height={Math.max(y(low) - y(top), 2)}
                fill="var(--felt-soft)"
              />
              <rect
                x={x(0)}
                y={y(top)}
                width={x(24) - x(0)}
                height={Math.max(y(low) - y(top), 2)}
                fill="url(#felt-weave)"
              />
              <path
                d={hush.day.map((d, i) => `${i ? 'L' : 'M'}${x(d.start_h)} ${y(d.under_db)}H${x(d.end_h)}`).join('')}
                fill="none"
                stroke="var(--hush)"
                strokeWidth={2.4}
                strokeLinejoin="round"
              />
              {hush.day
                .filter((d) => d.end_h - d.start_h > 1.2)
                .map((d) => (
                  <text
                    key={d.start_h}
                    x={(x(d.start_h) + x(d.end_h)) / 2}
                    y={y(d.under_db) + (y(d.under_db) < lane + 16 ? 15 : -6)}
                    fontSize={12}
                    fontWeight={650}
                    textAnchor="middle"
                    stroke="var(--paper)"
                    strokeWidth={3}
                    paintOrder="stroke"
                  >
                    {d.under_db.toFixed(0)}
                  </text>
                ))}
            </g>
          ) : null}
          <path d={`M${x(hour)} ${TOP - 4}V${lane + LANE}`} stroke="var(--change)" strokeWidth={2} />
          <circle cx={x(hour)} cy={lane + LANE} r={6.5} fill="var(--change)" stroke="var(--card)" strokeWidth={2} />
          <text
            x={x(hour) + (hour > 19 ? -10 : 10)}
            y={lane + LANE - 8}
            fontSize={12.5}
            fontWeight={650}
            textAnchor={hour > 19 ? 'end' : 'start'}
            style={{ fill: 'var(--change)' }}
            stroke="var(--paper)"
            strokeWidth={3.5}
            paintOrder="stroke"
          >
            you record at {clock(hour)}
          </text>
        </svg>
        <input
          type="range"
          min={0}
          max={24}
          step={0.25}
          value={hour}
          aria-label="You record at"
          aria-valuetext={clock(hour)}
          onChange={(e) => drag({ do: 'set-hour', hour: Number(e.target.value) })}
          onPointerUp={(e) => edit({ do: 'set-hour', hour: Number(e.currentTarget.value) })}
          onKeyUp={(e) => edit({ do: 'set-hour', hour: Number(e.currentTarget.value) })}
          className="absolute cursor-ew-resize opacity-0 focus-visible:opacity-30"
          style={{ left: LEFT - 8, width: w - LEFT - RIGHT + 16, top: lane, height: LANE + 14 }}
        />
      </div>
    </section>
  )
}

type Noise = { name: string; hours?: readonly (readonly [number, number])[] | null }
type Stretch = { start_h: number; end_h: number; under_db: number }

function summary(noises: readonly Noise[], day: readonly Stretch[]): string {
  const runs = noises.map(
    (n) =>
      `${n.name} ${(n.hours ?? []).length ? (n.hours ?? []).map(([a, b]) => `from ${clock(a)} to ${clock(b)}`).join(' and ') : 'always'}`,
  )
  const quiet = day.map((d) => `${clock(d.start_h)} to ${clock(d.end_h)}: ${d.under_db.toFixed(0)} dB under you`)
  return `The day. ${runs.join('; ') || 'No noise is noted'}. ${quiet.join('; ')}`
}
