import { scaleLinear, scaleLog } from 'd3-scale'
import { type KeyboardEvent, useContext, useRef, useState } from 'react'
import type { Schemas } from '../api/client'
import { nameOfNote } from './notes'
import { SaveMenu } from './save-menu'
import { useWidth } from './use-width'
import { PlotHeight } from './xy-plot'

const M = { left: 16, right: 44, top: 26, bottom: 16 }
const QUIET_DB = -30
const NAMED = 3
const NAME_PX = 30
/** A note that rings for the time wanted stays within 30 of its 60 dB for half of it. */
const SHARE_OF_RING = 0.5

type Note = { f_hz: number; note: string; t60_s: number; mode?: unknown }
type Props = {
  surface: Schemas['Surface']
  notes: readonly Note[]
  /** Longest ring time that is wanted. [s] */
  wantedS: number | null
  /** The reading before it, hung beside. */
  before?: Schemas['Surface'] | null
}

/** Low notes as threads that hang as long as the note stays within 30 dB: the lower it hangs, the longer it is heard. */
export function HangingNotes({ surface, notes, wantedS, before = null }: Props) {
  const H = useContext(PlotHeight)
  const { box, w } = useWidth()
  const svg = useRef<SVGSVGElement>(null)
  const [at, setAt] = useState<number | null>(null)
  const { f_hz: f, hangs_s: hangs } = surface
  const seenS = surface.time_s.at(-1) ?? 0.7
  const x = scaleLog()
    .domain([f[0]!, f.at(-1)!])
    .range([M.left, w - M.right])
  const y = scaleLinear()
    .domain([0, seenS])
    .range([M.top, H - M.bottom])
  const start = surface.level_db[0] ?? []
  const weight = (i: number) => 0.6 + 2.4 * Math.max(((start[i] ?? QUIET_DB) - QUIET_DB) / -QUIET_DB, 0)
  const nearest = (hz: number) =>
    f.reduce((best, v, i) => (Math.abs(Math.log(v / hz)) < Math.abs(Math.log(f[best]! / hz)) ? i : best), 0)
  const knots = notes
    .filter((n) => n.f_hz >= f[0]! && n.f_hz <= f.at(-1)!)
    .map((n) => ({ ...n, i: nearest(n.f_hz) }))
    .map((n) => ({ ...n, hang: lowest(hangs, n.i) }))
    .sort((a, b) => b.hang - a.hang)
  const named: typeof knots = []
  for (const knot of knots)
    if (named.length < NAMED && named.every((n) => Math.abs(x(n.f_hz) - x(knot.f_hz)) > 52)) named.push(knot)
  const [longest] = named
  const csv = () =>
    `pitch [Hz],hangs [s],starts at [dB]\n${f.map((hz, i) => `${hz},${hangs[i] ?? ''},${start[i] ?? ''}`).join('\n')}\n`
  const onKey = (event: KeyboardEvent) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key]
    if (!by) return
    event.preventDefault()
    setAt((now) => Math.min(Math.max((now ?? 0) + by, 0), f.length - 1))
  }
  const felt = wantedS === null ? null : Math.min(wantedS * SHARE_OF_RING, seenS)
  const reads = (i: number) => lengthWords(hangs[i] ?? null, seenS)
  const readsBefore = (hz: number) => {
    const i = before?.f_hz.findIndex((v) => v >= hz * 0.999) ?? -1
    return lengthWords(before?.hangs_s[i] ?? null, before?.time_s.at(-1) ?? seenS)
  }
  return (
    <figure data-testid="plot-hanging-notes">
      <div className="flex items-start justify-between gap-3">
        <div>
          <h2 className="text-head">Which low notes hang on?</h2>
          <p className="text-note text-ink-2">
            {longest
              ? `${longest.note} hangs lowest: it rings for ${longest.t60_s.toFixed(2)} s${wantedS === null ? '' : `, ${wantedS.toFixed(2)} s is wanted`}.`
              : 'No note was found that rings on by itself.'}{' '}
            A thread is as long as its note is heard, 30 dB down.
          </p>
        </div>
        <SaveMenu svg={svg} fileName="hanging-notes" csv={csv} width={w} height={H} />
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
          aria-label={`Hanging notes from ${f[0]!.toFixed(0)} to ${f.at(-1)!.toFixed(0)} Hz. ${named.map((n) => `${n.note} rings for ${n.t60_s.toFixed(2)} s`).join('; ')}. Arrow keys read single pitches.`}
          onPointerMove={(e) => {
            const rect = e.currentTarget.getBoundingClientRect()
            setAt(nearest(x.invert(((e.clientX - rect.left) / rect.width) * w)))
          }}
          onPointerLeave={() => setAt(null)}
        >
          {felt === null ? null : (
            <>
              <rect
                x={M.left}
                y={M.top}
                width={w - M.left - M.right}
                height={y(felt) - M.top}
                fill="var(--felt-soft)"
              />
              <rect
                x={M.left}
                y={M.top}
                width={w - M.left - M.right}
                height={y(felt) - M.top}
                fill="url(#felt-weave)"
              />
            </>
          )}
          {octaveNotes(f[0]!, f.at(-1)!).map((hz) => (
            <text
              key={hz}
              x={x(hz)}
              y={M.top - 10}
              fontSize={11.5}
              textAnchor="middle"
              style={{ fill: 'var(--ink-2)' }}
            >
              {nameOfNote(hz)}
            </text>
          ))}
          <path
            d={`M${M.left - 6} ${M.top}H${w - M.right + 6}`}
            stroke="var(--ink)"
            strokeWidth={2.6}
            strokeLinecap="round"
          />
          {[0.2, 0.4, 0.6]
            .filter((s) => s <= seenS)
            .map((s) => (
              <g key={s}>
                <path d={`M${M.left} ${y(s)}H${w - M.right}`} stroke="var(--line)" />
                <text x={w - M.right + 8} y={y(s) + 4} fontSize={11.5} style={{ fill: 'var(--ink-2)' }}>
                  {s.toFixed(1)} s
                </text>
              </g>
            ))}
          {before
            ? before.f_hz.map((hz, i) =>
                before.hangs_s[i] == null ? null : (
                  <path
                    key={`b${hz}`}
                    d={`M${x(hz) + 2.2} ${M.top}V${y(Math.min(before.hangs_s[i]!, seenS))}`}
                    stroke="var(--ink-2)"
                    strokeWidth={1.1}
                    strokeDasharray="2 2"
                  />
                ),
              )
            : null}
          {f.map((hz, i) =>
            hangs[i] == null ? null : (
              <path
                key={hz}
                d={`M${x(hz)} ${M.top}V${y(hangs[i]!)}`}
                stroke={at === i ? 'var(--change)' : 'var(--boom)'}
                strokeWidth={weight(i)}
                strokeLinecap="round"
                opacity={felt !== null && hangs[i]! > felt ? 0.95 : 0.5}
              />
            ),
          )}
          {knots.map((n) => (
            <circle
              key={n.f_hz}
              cx={x(f[n.i]!)}
              cy={y(n.hang)}
              r={4.2}
              fill={n.mode ? 'var(--ink)' : 'var(--card)'}
              stroke="var(--ink)"
              strokeWidth={1.6}
            />
          ))}
          {named.map((n) => (
            <text
              key={n.f_hz}
              x={Math.min(Math.max(x(n.f_hz), M.left + NAME_PX / 2), w - M.right - NAME_PX / 2)}
              y={Math.min(y(n.hang) + 18, H - 3)}
              fontSize={13}
              fontWeight={650}
              textAnchor="middle"
              stroke="var(--card)"
              strokeWidth={4}
              paintOrder="stroke"
              style={{ fontFamily: 'var(--font-display)' }}
            >
              {n.note.split(' ')[0]}
            </text>
          ))}
        </svg>
      </div>
      <p className="min-h-[1.2em] text-fine text-ink-2" aria-live="polite">
        {at === null
          ? `A filled knot: a note of the drawn room; an open one fits none. Felt is the length that is wanted.${before ? ' Dotted: the reading before this one.' : ''}`
          : `${nameOfNote(f[at]!)} ${f[at]!.toFixed(0)} Hz: ${reads(at)}${before ? `; before, it ${readsBefore(f[at]!)}` : ''}`}
      </p>
    </figure>
  )
}

const lengthWords = (hangsS: number | null, seenS: number): string =>
  hangsS === null
    ? 'is never within 30 dB of the loudest'
    : hangsS >= seenS - 1e-6
      ? `is still there after ${seenS.toFixed(1)} s`
      : `hangs for ${hangsS.toFixed(2)} s`

/** The end of the longest thread within a quarter tone: a note found lies between two pitches. */
function lowest(hangs: readonly (number | null)[], i: number): number {
  return Math.max(0, ...hangs.slice(Math.max(i - 1, 0), i + 2).map((h) => h ?? 0))
}

/** C, E and G sharp within a range: a third of an octave apart, enough to find one's way. */
function octaveNotes(low: number, high: number): number[] {
  const all: number[] = []
  for (let midi = 20; midi < 80; midi += 4) {
    const hz = 440 * 2 ** ((midi - 69) / 12)
    if (hz >= low && hz <= high) all.push(hz)
  }
  return all
}
