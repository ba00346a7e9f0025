import { scaleLog } from 'd3-scale'
import { line } from 'd3-shape'
import { type KeyboardEvent, useContext, useRef, useState } from 'react'
import type { Schemas } from '../api/client'
import { SaveMenu } from './save-menu'
import { useWidth } from './use-width'
import { PlotHeight } from './xy-plot'

const M = { left: 46, right: 64, top: 6, bottom: 34 }
const FLOOR_DB = -36
const TICKS = [30, 50, 80, 120, 180, 250]

/** The decay surface as a print of ridges: each line a moment later than the one above it; what rings on stays high. */
export function RidgePlot({
  surface,
  notes,
}: {
  surface: Schemas['Surface']
  notes: readonly { f_hz: number; note: string; t60_s: number }[]
}) {
  const H = useContext(PlotHeight)
  const { box, w } = useWidth()
  const svg = useRef<SVGSVGElement>(null)
  const [at, setAt] = useState<number | null>(null)
  const { f_hz: f, time_s: time } = surface
  const level = surface.level_db.map((row) => row.map((db) => db ?? FLOOR_DB))
  const x = scaleLog()
    .domain([f[0]!, f.at(-1)!])
    .range([M.left, w - M.right])
  const count = time.length
  const shift = (H - M.top - M.bottom) * 0.46
  const tall = (H - M.top - M.bottom) * 0.54
  const base = (k: number) => H - M.bottom - shift + (k / Math.max(count - 1, 1)) * shift
  const y = (k: number, db: number) => base(k) - ((Math.max(db, FLOOR_DB) - FLOOR_DB) / -FLOOR_DB) * tall
  const ridge = (k: number) =>
    line<number>()
      .x((_, i) => x(f[i]!))
      .y((db) => y(k, db))(level[k]!) ?? ''
  const last = count - 1
  // the ridge that still stands highest when half the time has gone, and the note that was found there
  const late = level[Math.round(last * 0.5)] ?? []
  const top = late.reduce((best, db, i) => (db > late[best]! ? i : best), 0)
  const longest = [...notes].sort(
    (a, b) => Math.abs(Math.log(a.f_hz / f[top]!)) - Math.abs(Math.log(b.f_hz / f[top]!)),
  )[0]
  const named = longest && Math.abs(Math.log(longest.f_hz / f[top]!)) < 0.05 ? longest : null
  const csv = () =>
    [
      `pitch [Hz],${time.map((t) => `level at ${t.toFixed(2)} s [dB]`).join(',')}`,
      ...f.map((hz, i) => [hz, ...level.map((row) => row[i])].join(',')),
    ].join('\n') + '\n'
  const onKey = (event: KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
    if (!by) return
    event.preventDefault()
    setAt((now) => Math.min(Math.max((now ?? 0) + by, 0), f.length - 1))
  }
  const heldFor = (i: number) => {
    const start = level[0]![i]!
    const gone = level.findIndex((row) => row[i]! < start - 20)
    return gone < 0 ? null : time[gone]!
  }
  return (
    <figure data-testid="plot-decay-surface">
      <div className="flex items-start justify-between gap-3">
        <div>
          <h2 className="text-[1.08rem]">How do the low notes fade?</h2>
          <p className="text-[0.92rem] text-ink-2">
            Front lines are later. The ridge near {named ? `${named.note}` : `${f[top]!.toFixed(0)} Hz`} runs furthest
            forward{named ? `: that note hangs for ${named.t60_s.toFixed(2)} s` : ''}.
          </p>
        </div>
        <SaveMenu svg={svg} fileName="decay-surface" csv={csv} width={w} height={H} />
      </div>
      <div ref={box}>
        <svg
          ref={svg}
          viewBox={`0 0 ${w} ${H}`}
          width={w}
          height={H}
          role="img"
          tabIndex={0}
          onKeyDown={onKey}
          onBlur={() => setAt(null)}
          aria-label={`Decay surface from ${f[0]!.toFixed(0)} to ${f.at(-1)!.toFixed(0)} Hz over ${time[last]?.toFixed(1)} s. Arrow keys read single pitches.`}
          onPointerMove={(e) => {
            const px =
              ((e.clientX - e.currentTarget.getBoundingClientRect().left) /
                e.currentTarget.getBoundingClientRect().width) *
              w
            const hz = x.invert(px)
            setAt(
              f.reduce((best, v, i) => (Math.abs(Math.log(v / hz)) < Math.abs(Math.log(f[best]! / hz)) ? i : best), 0),
            )
          }}
          onPointerLeave={() => setAt(null)}
        >
          {time.map((t, k) => (
            <g key={t}>
              <path
                d={`${ridge(k)}L${x(f.at(-1)!)} ${base(k) + 1}L${x(f[0]!)} ${base(k) + 1}Z`}
                fill="var(--card)"
                stroke="none"
              />
              <path
                d={ridge(k)}
                fill="none"
                stroke={k === 0 ? 'var(--ink)' : 'var(--boom)'}
                strokeWidth={k === 0 ? 1.8 : 1.1}
                opacity={k === 0 ? 1 : 0.95 - 0.45 * (k / count)}
              />
            </g>
          ))}
          {[0, 0.2, 0.4, 0.6]
            .filter((t) => t <= (time[last] ?? 0) + 1e-6)
            .map((t) => (
              <text
                key={t}
                x={w - M.right + 8}
                y={base((t / Math.max(time[last] ?? 1, 0.01)) * last) + 4}
                fontSize={11.5}
                style={{ fill: 'var(--ink-2)' }}
              >
                {t.toFixed(1)} s
              </text>
            ))}
          {TICKS.map((hz) => (
            <text
              key={hz}
              x={x(hz)}
              y={H - M.bottom + 15}
              fontSize={11.5}
              textAnchor="middle"
              style={{ fill: 'var(--ink-2)' }}
            >
              {hz}
            </text>
          ))}
          <text x={w - M.right} y={H - 4} fontSize={11.5} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
            pitch, Hz
          </text>
          {at !== null ? (
            <path
              d={`M${x(f[at]!)} ${M.top}V${H - M.bottom}`}
              stroke="var(--ink)"
              strokeWidth={1}
              strokeDasharray="2 3"
            />
          ) : null}
        </svg>
      </div>
      <p className="min-h-[1.2em] text-[0.8rem] text-ink-2" aria-live="polite">
        {at === null
          ? ''
          : `${f[at]!.toFixed(0)} Hz: starts at ${level[0]![at]!.toFixed(0).replace('-', '−')} dB, ${heldFor(at) === null ? `has not lost 20 dB after ${time[last]!.toFixed(1)} s` : `20 dB down after ${heldFor(at)!.toFixed(2)} s`}`}
      </p>
    </figure>
  )
}
