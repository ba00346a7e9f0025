import type { ResultOf } from '../../api/client'
import { useWidth } from '../../plots/use-width'

const THREADS: readonly { name: string; kinds: readonly string[]; colour: string }[] = [
  { name: 'puffs and esses', kinds: ['pop', 'ess'], colour: 'var(--change)' },
  { name: 'tops cut flat', kinds: ['clipped', 'flat_top'], colour: 'var(--bounce)' },
  { name: 'lost moments, clicks', kinds: ['dropout', 'click'], colour: 'var(--bounce)' },
  { name: 'level and distance', kinds: ['too_quiet', 'creep', 'drift', 'jump'], colour: 'var(--touch)' },
  { name: 'underneath: hum, tone, hiss, rumble', kinds: ['hum', 'tone', 'hiss', 'rumble'], colour: 'var(--hush)' },
  { name: 'what passes', kinds: ['noise'], colour: 'var(--hush)' },
  { name: 'the room behind', kinds: ['roomy'], colour: 'var(--bounce)' },
  { name: 'cuts', kinds: ['seam'], colour: 'var(--boom)' },
  { name: 'the wire', kinds: ['dead_channel', 'dc', 'polarity', 'delay'], colour: 'var(--boom)' },
]
/** Edges as the plot of the level above has them, so that a knot stands under its place. */
const LEFT = 46
const RIGHT = 14
const ROW = 31
const BLOCK_S = 0.1

/** A thread for each thing that spoils takes, drawn under the recording: a knot where it was found. */
export function Threads({ take }: { take: ResultOf<'take'> }) {
  const { box, w } = useWidth()
  const seconds = Math.max((take.blocks_db ?? []).length * BLOCK_S, 1)
  const x = (s: number) => LEFT + (Math.min(s, seconds) / seconds) * (w - LEFT - RIGHT)
  const H = THREADS.length * ROW + 30
  const told = THREADS.map(({ name, kinds }) => {
    const many = take.findings.filter((f) => kinds.includes(f.kind))
    return `${name}: ${many.length ? many.map((f) => `at ${f.start_s.toFixed(1)} s`).join(', ') : 'none'}`
  })
  return (
    <section aria-label="What spoils takes" data-testid="threads" className="shrink-0 px-4">
      <div ref={box}>
        <svg viewBox={`0 0 ${w} ${H}`} width={w} height={H} role="img" aria-label={`Threads. ${told.join('; ')}`}>
          {(take.phrases ?? []).map(([from, to]) => (
            <rect
              key={from}
              x={x(from)}
              y={4}
              width={Math.max(x(to) - x(from), 1)}
              height={H - 26}
              rx={4}
              fill="var(--floor)"
              opacity={0.55}
            />
          ))}
          {THREADS.map(({ name, kinds, colour }, row) => {
            const y = 24 + row * ROW
            const found = take.findings.filter((f) => kinds.includes(f.kind))
            return (
              <g key={name}>
                <text
                  x={LEFT}
                  y={y - 8}
                  fontSize={12.5}
                  fontWeight={found.length ? 650 : 400}
                  style={{ fill: found.length ? 'var(--ink)' : 'var(--ink-2)' }}
                >
                  {name}
                </text>
                <path
                  d={`M${LEFT} ${y}q${(w - LEFT) / 4} ${row % 2 ? 5 : -5} ${(w - LEFT - 20) / 2} 0t${(w - LEFT - 20) / 2} 0`}
                  fill="none"
                  stroke="var(--line-strong)"
                  strokeWidth={1.2}
                />
                {found.map((f) => (
                  <g key={f.start_s}>
                    {f.end_s - f.start_s > 0.4 ? (
                      <path
                        d={`M${x(f.start_s)} ${y}H${x(f.end_s)}`}
                        stroke={colour}
                        strokeWidth={4}
                        strokeLinecap="round"
                        opacity={0.7}
                      />
                    ) : null}
                    <circle cx={x(f.start_s)} cy={y} r={6.5} fill={colour} stroke="var(--paper)" strokeWidth={2} />
                  </g>
                ))}
              </g>
            )
          })}
          {Array.from({ length: Math.floor(seconds / 2) + 1 }, (_, i) => i * 2)
            .filter((_, i, all) => all.length <= 12 || i % Math.ceil(all.length / 12) === 0)
            .map((s) => (
              <text key={s} x={x(s)} y={H - 3} fontSize={11.5} textAnchor="middle" style={{ fill: 'var(--ink-2)' }}>
                {s} s
              </text>
            ))}
        </svg>
      </div>
      <p className="text-[0.82rem] text-ink-2">
        A knot is where it was found. Nothing on a thread: looked for, not there. Shaded: your phrases.
      </p>
    </section>
  )
}
