import type { LedgerEntry, MarkKey } from '../../api/client'
import { along, figure, ORDER, wantedStretch } from '../../marks/scales'
import { usePredicted } from '../../state/forecast'
import { useWidth } from '../../plots/use-width'
import { NAMES, UNITS } from '../../marks/scales'

const LEFT = 92
const LANE = 86
const GAP = 12
const TOP = 32
const FLAG = 24
const APART = 6
const LETTER = 6.3

type Point = { at: number; mark: MarkKey; value: number; simulated: boolean; title: string }

/** What the entries measured, oldest first. */
export function measuredOf(entries: readonly LedgerEntry[]): Point[] {
  return [...entries].reverse().flatMap((entry) => {
    const measured = (entry.detail['measured'] ?? {}) as Record<string, { value: number; simulated?: boolean }>
    return Object.entries(measured).map(([mark, found]) => ({
      at: Date.parse(entry.at),
      mark: mark as MarkKey,
      value: found.value,
      simulated: found.simulated ?? false,
      title: entry.title,
    }))
  })
}

type Flag = { x: number; width: number }

/** Where each move's flag stands: by its line, never over the next one's, with its title where all of it has room. Of
 * more than there is room for the newest have one. [px] */
export function flagsOf(moves: readonly { at: number; letters: number }[], w: number): (Flag | null)[] {
  const flags: (Flag | null)[] = []
  let free = w
  for (const { at, letters } of [...moves].reverse()) {
    const wide = FLAG + 8 + letters * LETTER
    const x = Math.min(at - FLAG / 2, free - APART - FLAG)
    const width = x + wide <= free - APART ? wide : FLAG
    flags.unshift(x < 0 ? null : { x, width })
    free = Math.min(free, x)
  }
  return flags
}

type Props = { entries: readonly LedgerEntry[]; chosen: number | null; onChoose: (id: number) => void }

/** The four strings over time: felt = wanted, bead = measured, ring = promised, pencil line = what was done. */
export function Lanes({ entries, chosen, onChoose }: Props) {
  const { active } = usePredicted()
  const { box, w } = useWidth()
  const points = measuredOf(entries)
  const moves = entries.filter((entry) => entry.kind === 'move').reverse()
  // what happened stands in its order, evenly: a week without a reading would push a busy evening into one spot
  const times = [...new Set([...points.map((p) => p.at), ...moves.map((m) => Date.parse(m.at))])].sort((a, b) => a - b)
  const x = (at: number) => LEFT + 40 + ((times.indexOf(at) + 0.5) / Math.max(times.length, 1)) * (w - LEFT - 60)
  const H = TOP + 4 * (LANE + GAP) + 16
  const y = (lane: number, mark: MarkKey, value: number) =>
    TOP + lane * (LANE + GAP) + LANE - 6 - along(mark, value) * (LANE - 12)
  const day = (at: number) => new Date(at).toLocaleDateString(undefined, { day: 'numeric', month: 'short' })
  const flags = flagsOf(
    moves.map((move) => ({ at: x(Date.parse(move.at)), letters: move.title.length })),
    w,
  )
  const labels = times.filter((at, i) => i === 0 || day(at) !== day(times[i - 1]!))
  return (
    <section aria-label="The four marks over time" data-testid="lanes" className="shrink-0">
      <div ref={box}>
        <svg viewBox={`0 0 ${w} ${H}`} width={w} height={H} role="group" aria-label={told(points)}>
          {ORDER.map((mark, lane) => {
            const wanted = active?.marks[mark].wanted
            const top = TOP + lane * (LANE + GAP)
            const [from, to] = wanted ? wantedStretch(mark, wanted) : [1, 1]
            const [y0, y1] = [top + LANE - 6 - to * (LANE - 12), top + LANE - 6 - from * (LANE - 12)]
            const mine = points.filter((p) => p.mark === mark)
            return (
              <g key={mark}>
                <text x={0} y={top + 30} fontSize={15} fontWeight={650} style={{ fontFamily: 'var(--font-display)' }}>
                  {NAMES[mark]}
                </text>
                <text x={0} y={top + 47} fontSize={12} style={{ fill: 'var(--ink-2)' }}>
                  {UNITS[mark]}
                </text>
                <rect
                  x={LEFT}
                  y={top}
                  width={w - LEFT - 2}
                  height={LANE}
                  rx={9}
                  fill="var(--card)"
                  stroke="var(--line)"
                />
                {wanted ? (
                  <>
                    <rect x={LEFT + 1} y={y0} width={w - LEFT - 4} height={y1 - y0} fill="var(--felt-soft)" />
                    <rect x={LEFT + 1} y={y0} width={w - LEFT - 4} height={y1 - y0} fill="url(#felt-weave)" />
                  </>
                ) : null}
                <path
                  d={mine.map((p, i) => `${i ? 'L' : 'M'}${x(p.at)} ${y(lane, mark, p.value)}`).join('')}
                  fill="none"
                  stroke="var(--line-strong)"
                  strokeWidth={1.2}
                />
                {mine.map((p, i) => (
                  <g key={i}>
                    <circle
                      cx={x(p.at)}
                      cy={y(lane, mark, p.value)}
                      r={5.4}
                      fill="var(--ink)"
                      stroke="var(--card)"
                      strokeWidth={1.5}
                    >
                      <title>{`${p.title}: ${figure(mark, p.value)} ${UNITS[mark]}${p.simulated ? ' (simulated)' : ''}`}</title>
                    </circle>
                    {i === 0 || i === mine.length - 1 ? (
                      <text
                        x={x(p.at)}
                        y={y(lane, mark, p.value) + (y(lane, mark, p.value) < top + 22 ? 19 : -9)}
                        fontSize={12}
                        fontWeight={650}
                        textAnchor="middle"
                      >
                        {figure(mark, p.value)}
                      </text>
                    ) : null}
                  </g>
                ))}
                {mine.length === 0 ? (
                  <text x={LEFT + 14} y={top + LANE - 12} fontSize={12} style={{ fill: 'var(--ink-2)' }}>
                    not read yet
                  </text>
                ) : null}
              </g>
            )
          })}
          {moves.map((move, i) => {
            const at = x(Date.parse(move.at))
            const on = move.id === chosen
            const flag = flags[i]
            return (
              <g key={move.id}>
                <path
                  d={`M${at} ${TOP - 6}V${H - 18}`}
                  stroke="var(--change)"
                  strokeWidth={on ? 2 : 1.2}
                  strokeDasharray="4 4"
                />
                {(move.proof ?? []).map((row) => (
                  <circle
                    key={row.mark}
                    cx={at}
                    cy={y(ORDER.indexOf(row.mark as MarkKey), row.mark as MarkKey, row.predicted)}
                    r={5.4}
                    fill="var(--card)"
                    stroke="var(--change)"
                    strokeWidth={2.2}
                  />
                ))}
                {flag ? (
                  <g
                    role="button"
                    tabIndex={0}
                    aria-pressed={on}
                    aria-label={`${i + 1}: ${move.title}`}
                    style={{ cursor: 'pointer' }}
                    onClick={() => onChoose(move.id)}
                    onKeyDown={(e) => (e.key === 'Enter' || e.key === ' ') && (e.preventDefault(), onChoose(move.id))}
                  >
                    <title>{move.title}</title>
                    <rect
                      x={flag.x}
                      y={0}
                      width={flag.width}
                      height={FLAG}
                      rx={6}
                      fill={on ? 'var(--change)' : 'var(--change-soft)'}
                    />
                    <text
                      x={flag.x + FLAG / 2}
                      y={16.5}
                      fontSize={12}
                      fontWeight={650}
                      textAnchor="middle"
                      style={{ fill: on ? 'var(--on-change)' : 'var(--ink)' }}
                    >
                      {i + 1}
                    </text>
                    {flag.width > FLAG ? (
                      <text
                        x={flag.x + FLAG + 2}
                        y={16.5}
                        fontSize={11.5}
                        fontWeight={650}
                        style={{ fill: on ? 'var(--on-change)' : 'var(--ink)' }}
                      >
                        {move.title}
                      </text>
                    ) : null}
                  </g>
                ) : null}
              </g>
            )
          })}
          {labels.map((at) => (
            <text key={at} x={x(at)} y={H - 3} fontSize={11.5} textAnchor="middle" style={{ fill: 'var(--ink-2)' }}>
              {day(at)}
            </text>
          ))}
        </svg>
      </div>
      <p className="text-fine text-ink-2">
        Felt is wanted, a bead measured, a ring promised, a pencil line what was done. In its order, not to scale.
      </p>
    </section>
  )
}

function told(points: readonly Point[]): string {
  return ORDER.map((mark) => {
    const mine = points.filter((p) => p.mark === mark)
    return mine.length
      ? `${NAMES[mark]} from ${figure(mark, mine[0]!.value)} to ${figure(mark, mine.at(-1)!.value)} ${UNITS[mark]} over ${mine.length} readings`
      : `${NAMES[mark]} not read yet`
  }).join('; ')
}
