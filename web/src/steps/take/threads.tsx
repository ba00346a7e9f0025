import type { ResultOf } from '../../api/client'
import { useWidth } from '../../plots/use-width'
import { useCatalogue } from '../../state/catalogue'
import { type Span, ticks } from './span'

const COLOURS: Record<string, string> = {
  puffs: 'var(--change)',
  mouth: 'var(--change)',
  handling: 'var(--change)',
  tops: 'var(--bounce)',
  moments: 'var(--bounce)',
  room: 'var(--bounce)',
  automatic: 'var(--bounce)',
  distance: 'var(--touch)',
  tuning: 'var(--touch)',
  under: 'var(--hush)',
  passing: 'var(--hush)',
  bleed: 'var(--hush)',
  cuts: 'var(--boom)',
  wire: 'var(--boom)',
  file: 'var(--boom)',
}
/** Edges as the wave above has them, so that a knot stands under its place. */
const LEFT = 46
const RIGHT = 14
const ROW = 31

/** A thread for each thing that spoils this take, a knot where it was found; the others are told in words. */
export function Threads({ take, span, atS }: { take: ResultOf<'take'>; span: Span; atS: number }) {
  const { box, w } = useWidth()
  const { findings: kinds, threads } = useCatalogue()
  const threadOf = new Map(kinds.map((k) => [k.key, k.thread]))
  const inner = w - LEFT - RIGHT
  const x = (s: number) => LEFT + ((s - span[0]) / (span[1] - span[0])) * inner
  const shown = (s: number) => Math.min(Math.max(x(s), LEFT), w - RIGHT)
  const rows = threads
    .map(({ key, name }) => ({ key, name, found: take.findings.filter((f) => threadOf.get(f.kind) === key) }))
    .filter(({ found }) => found.length > 0)
  const missed = new Map(Object.entries(take.not_looked_for ?? {}))
  const clean = threads.filter(
    ({ key }) => !rows.some((r) => r.key === key) && kinds.some((k) => k.thread === key && !missed.has(k.key)),
  )
  const whole = Object.entries(
    kinds.reduce<Record<string, string[]>>((all, kind) => {
      const why = missed.get(kind.key)
      if (why) (all[why] ??= []).push(kind.name.toLowerCase())
      return all
    }, {}),
  )
  const H = rows.length * ROW + 26
  const told = rows.map(({ name, found }) => `${name}: ${found.map((f) => `at ${f.start_s.toFixed(1)} s`).join(', ')}`)
  return (
    <div data-testid="threads">
      <div ref={box}>
        <svg viewBox={`0 0 ${w} ${H}`} width={w} height={H} role="img" aria-label={`Threads. ${told.join('; ')}`}>
          {rows.map(({ key, name, found }, row) => {
            const y = 24 + row * ROW
            const colour = COLOURS[key] ?? 'var(--change)'
            return (
              <g key={key}>
                <text x={LEFT} y={y - 8} fontSize={12.5} fontWeight={650} style={{ fill: 'var(--ink)' }}>
                  {name}
                </text>
                <path
                  d={`M${LEFT} ${y}q${inner / 4} ${row % 2 ? 5 : -5} ${inner / 2} 0t${inner / 2} 0`}
                  fill="none"
                  stroke="var(--line-strong)"
                  strokeWidth={1.2}
                />
                {found
                  .filter((f) => f.end_s > span[0] && f.start_s < span[1])
                  .map((f) => (
                    <g key={`${f.kind} ${f.start_s} ${f.value}`}>
                      {f.end_s - f.start_s > 0.02 * (span[1] - span[0]) ? (
                        <path
                          d={`M${shown(f.start_s)} ${y}H${shown(f.end_s)}`}
                          stroke={colour}
                          strokeWidth={4}
                          strokeLinecap="round"
                          opacity={0.7}
                        />
                      ) : null}
                      <circle
                        cx={shown(f.start_s)}
                        cy={y}
                        r={6.5}
                        fill={colour}
                        stroke="var(--paper)"
                        strokeWidth={2}
                      />
                    </g>
                  ))}
              </g>
            )
          })}
          {atS > span[0] && atS < span[1] && atS > 0 ? (
            <path d={`M${x(atS)} 0V${H - 18}`} stroke="var(--ink)" strokeWidth={1} opacity={0.5} />
          ) : null}
          {ticks(span).map(({ s, name }) => (
            <text key={s} x={x(s)} y={H - 3} fontSize={11.5} textAnchor="middle" style={{ fill: 'var(--ink-2)' }}>
              {name}
            </text>
          ))}
        </svg>
      </div>
      <p className="text-small text-ink-2">
        {clean.length ? (
          <>
            <strong className="font-semibold text-ink">Looked for, not there:</strong>{' '}
            {clean.map((t) => t.name).join('; ')}.{' '}
          </>
        ) : null}
        {whole.length ? (
          <>
            <strong className="font-semibold text-ink">Not looked for:</strong>{' '}
            {whole.map(([why, names]) => `${names.join(', ')} (${why})`).join('; ')}.
          </>
        ) : null}
      </p>
    </div>
  )
}
