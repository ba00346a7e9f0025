import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { fitting } from '../../ui/words'
import { useWidth } from '../../plots/use-width'
import { along, ENDS } from '../../marks/scales'
import { clock } from '../../ui/clock'
import type { Schemas } from '../../api/client'
import { beats, daySpans, type Span, spanWords } from './calendar'

const LEFT = 132
const RIGHT = 12
const ROW = 25
const LANE = 46
const CHANCE = 40
const TOP = 8

type Props = { hours: Schemas['HoursAnswer'] | undefined; minutes: number }

/** One day from midnight to midnight: a row for each noise, how quiet that makes it, the chance of an undisturbed take, and the hour of recording to drag. */
export function DayRibbon({ hours, minutes }: Props) {
  const { document, active, edit, drag, preview } = useRoom()
  const { active: predicted } = usePredicted()
  const { box, w } = useWidth()
  const { noises, brief } = document
  const hush = predicted?.marks.hush
  const hour = active.hour ?? 11
  const day = active.weekday ?? 0
  const x = (h: number) => LEFT + (h / 24) * (w - LEFT - RIGHT)
  const lane = TOP + Math.max(noises.length, 1) * ROW + 6
  const chanceAt = lane + LANE + 8
  const H = chanceAt + CHANCE + 20
  const low = hush?.wanted.low ?? 40
  const y = (db: number) => lane + LANE - along('hush', db) * LANE
  const top = ENDS.hush[1]
  const quarters = hours?.quarters[day] ?? []
  const closed = outside(daySpans(brief.allowed ?? { hours: [], other_days: [] }, day))
  return (
    <section aria-label="The day" className="shrink-0" data-testid="day-ribbon">
      <div ref={box} className="relative">
        <svg
          viewBox={`0 0 ${w} ${H}`}
          width={w}
          height={H}
          role="img"
          aria-label={summary(noises, hush?.day ?? [], day, quarters)}
        >
          <defs>
            <pattern id="noise-weave" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <path d="M0 0V7" stroke="var(--hush)" strokeWidth="2" opacity="0.55" />
            </pattern>
            <pattern id="closed-hours" width="6" height="6" patternUnits="userSpaceOnUse">
              <path d="M0 3H6" stroke="var(--ink-2)" strokeWidth="0.8" opacity="0.35" />
            </pattern>
          </defs>
          {closed.map(([a, b]) => (
            <rect
              key={a}
              x={x(a)}
              y={TOP - 4}
              width={x(b) - x(a)}
              height={chanceAt + CHANCE - TOP + 4}
              fill="url(#closed-hours)"
            >
              <title>You may not play then</title>
            </rect>
          ))}
          {[0, 3, 6, 9, 12, 15, 18, 21, 24].map((h) => (
            <g key={h}>
              <path d={`M${x(h)} ${TOP}V${chanceAt + CHANCE}`} stroke="var(--line)" />
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
                <text x={0} y={y0 + 15} fontSize={12.5} fontWeight={600}>
                  {fitting(noise.name, 19)}
                </text>
                {daySpans(noise, day).flatMap(([a, b]) =>
                  beats(noise.cycle ?? null, [a, b], (24 * 1.6) / (w - LEFT - RIGHT)).map(([from, to]) => (
                    <g key={`${a}-${from}`}>
                      <rect
                        x={x(from)}
                        y={y0 + 4}
                        width={Math.max(x(to) - x(from), 1.6)}
                        height={ROW - 10}
                        rx={Math.min(5, (x(to) - x(from)) / 2)}
                        fill={off ? 'none' : 'var(--card)'}
                        stroke="var(--hush)"
                        strokeWidth={noise.cycle ? 0.8 : 1}
                        strokeDasharray={off ? '3 3' : undefined}
                      />
                      {off ? null : (
                        <rect
                          x={x(from)}
                          y={y0 + 4}
                          width={Math.max(x(to) - x(from), 1.6)}
                          height={ROW - 10}
                          rx={Math.min(5, (x(to) - x(from)) / 2)}
                          fill={noise.cycle ? 'var(--hush)' : 'url(#noise-weave)'}
                          opacity={noise.cycle ? 0.6 : 1}
                        />
                      )}
                    </g>
                  )),
                )}
              </g>
            )
          })}
          {hush && hush.day.length ? (
            <g>
              <text x={0} y={lane + 14} fontSize={12.5} fontWeight={600}>
                How far under you
              </text>
              <text x={0} y={lane + 29} fontSize={11.5} style={{ fill: 'var(--ink-2)' }}>
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
          <g data-testid="chance-lane">
            <text x={0} y={chanceAt + 14} fontSize={12.5} fontWeight={600}>
              Left in peace
            </text>
            <text x={0} y={chanceAt + 29} fontSize={11.5} style={{ fill: 'var(--ink-2)' }}>
              takes of {minutes} min, %
            </text>
            <path d={`M${x(0)} ${chanceAt + CHANCE}H${x(24)}`} stroke="var(--line-strong)" />
            {runs(quarters).map(({ from, to, value }) =>
              value === null ? null : (
                <g key={from}>
                  <rect
                    x={x(from)}
                    y={chanceAt + CHANCE * (1 - value)}
                    width={x(to) - x(from)}
                    height={CHANCE * value}
                    fill="var(--felt-soft)"
                    stroke="var(--felt)"
                    strokeWidth={0.8}
                  />
                  <rect
                    x={x(from)}
                    y={chanceAt + CHANCE * (1 - value)}
                    width={x(to) - x(from)}
                    height={CHANCE * value}
                    fill="url(#felt-weave)"
                  />
                  {to - from > 1.1 ? (
                    <text
                      x={(x(from) + x(to)) / 2}
                      y={chanceAt + CHANCE - 6}
                      fontSize={12}
                      fontWeight={650}
                      textAnchor="middle"
                      stroke="var(--paper)"
                      strokeWidth={3}
                      paintOrder="stroke"
                    >
                      {(100 * value).toFixed(0)}
                    </text>
                  ) : null}
                </g>
              ),
            )}
          </g>
          <path d={`M${x(hour)} ${TOP - 4}V${chanceAt + CHANCE}`} stroke="var(--change)" strokeWidth={2} />
          <circle cx={x(hour)} cy={TOP} r={6.5} fill="var(--change)" stroke="var(--card)" strokeWidth={2} />
          <text
            x={x(hour) + (hour > 19 ? -10 : 10)}
            y={lane + LANE - 4}
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
          onPointerCancel={() => preview(null)}
          onKeyUp={(e) => edit({ do: 'set-hour', hour: Number(e.currentTarget.value) })}
          className="absolute cursor-ew-resize opacity-0 focus-visible:opacity-30"
          style={{ left: LEFT - 8, width: w - LEFT - RIGHT + 16, top: TOP, height: H - TOP - 20 }}
        />
      </div>
    </section>
  )
}

/** What lies between spans of a day. */
export function outside(spans: readonly Span[]): Span[] {
  const edges = [0, ...spans.flat(), 24]
  return edges.flatMap((from, i): Span[] => (i % 2 === 0 && edges[i + 1]! > from ? [[from, edges[i + 1]!]] : []))
}

type Run = { from: number; to: number; value: number | null }

/** Quarters of an hour that are alike, as stretches. */
export function runs(quarters: readonly (number | null)[]): Run[] {
  const found: Run[] = []
  quarters.forEach((value, i) => {
    const last = found.at(-1)
    if (last && last.value === value) last.to = (i + 1) / 4
    else found.push({ from: i / 4, to: (i + 1) / 4, value })
  })
  return found
}

type Noise = Parameters<typeof daySpans>[0] & { name: string }
type Stretch = { start_h: number; end_h: number; under_db: number }

function summary(
  noises: readonly Noise[],
  stretches: readonly Stretch[],
  day: number,
  quarters: readonly (number | null)[],
): string {
  const said = noises.map((n) => `${n.name} ${spanWords(daySpans(n, day))}`)
  const quiet = stretches.map((d) => `${clock(d.start_h)} to ${clock(d.end_h)}: ${d.under_db.toFixed(0)} dB under you`)
  const peace = runs(quarters)
    .filter((r) => r.value !== null)
    .map((r) => `${clock(r.from)} to ${clock(r.to)}: ${(100 * r.value!).toFixed(0)} % of takes left in peace`)
  return `The day. ${said.join('; ') || 'No noise is noted'}. ${quiet.join('; ')}. ${peace.join('; ')}`
}
