import { scaleLinear, scaleLog } from 'd3-scale'
import { line } from 'd3-shape'
import { createContext, type KeyboardEvent, type ReactNode, useContext, useRef, useState } from 'react'
import { csvOf } from './save'
import { SaveMenu } from './save-menu'
import type { Series, XY } from './series'
import { useWidth } from './use-width'

export type { Series, XY } from './series'

export type Axis = {
  name: string
  unit: string
  domain: readonly [number, number]
  ticks: readonly number[]
  log?: boolean
  text?: (value: number) => string
}

type Props = {
  /** The title is the question that the plot answers. */
  question: string
  /** The first line is the answer. */
  answer: string
  x: Axis
  y: Axis
  series: readonly Series[]
  /** A wanted stretch in y, drawn as felt. */
  wanted?: { low: number | null; high: number | null; name: string } | null
  /** Where the statistics stop being valid, drawn paler below. */
  trustedAbove?: number | null
  marks?: readonly { x: number; text: string; colour: string }[]
  fileName: string
  tools?: ReactNode
}

const M = { left: 46, right: 14, top: 8, bottom: 34 }
/** Height of a plot; the bench gives more where nothing else stands on it, so that the drawing above never jumps. */
export const PlotHeight = createContext(204)

/** Every plot's frame: question, answer, lines, legend, a cursor for mouse and keys, and saving as SVG, PNG, CSV. */
export function XYPlot({ question, answer, x, y, series, wanted, trustedAbove, marks = [], fileName, tools }: Props) {
  const H = useContext(PlotHeight)
  const { box, w } = useWidth()
  const svg = useRef<SVGSVGElement>(null)
  const [cursor, setCursor] = useState<number | null>(null)
  const sx = (x.log ? scaleLog() : scaleLinear()).domain(x.domain).range([M.left, w - M.right])
  const sy = scaleLinear()
    .domain(y.domain)
    .range([H - M.bottom, M.top])
  const xs = [...new Set(series.flatMap((s) => s.points.map((p) => p[0])))].sort((a, b) => a - b)
  const at = cursor === null ? null : (xs[cursor] ?? null)
  const xText = x.text ?? String
  const yText = y.text ?? String
  const readout =
    at === null
      ? null
      : `${xText(at)} ${x.unit}: ${series
          .map((s) => [s, s.points.find((p) => p[0] === at)?.[1]] as const)
          .filter(([, v]) => v !== undefined && v !== null)
          .map(([s, v]) => `${s.name} ${Number(v).toFixed(Math.abs(Number(v)) < 3 ? 2 : 1)} ${s.unit}`)
          .join(', ')}`

  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.key === 'ArrowRight' ? 1 : event.key === 'ArrowLeft' ? -1 : 0
    if (event.key === 'Escape') setCursor(null)
    if (!step || xs.length === 0) return
    event.preventDefault()
    setCursor((now) => Math.min(Math.max((now ?? (step > 0 ? -1 : xs.length)) + step, 0), xs.length - 1))
  }
  const nearest = (clientX: number) => {
    const rect = svg.current!.getBoundingClientRect()
    const px = ((clientX - rect.left) / rect.width) * w
    let best = 0
    xs.forEach((value, i) => {
      if (Math.abs(sx(value) - px) < Math.abs(sx(xs[best]!) - px)) best = i
    })
    return best
  }

  return (
    <figure className="m-0" data-testid={`plot-${fileName}`}>
      <figcaption className="flex flex-wrap items-start justify-between gap-x-3">
        <div className="min-w-0 flex-1">
          <h2 className="text-head leading-tight">{question}</h2>
          <p className="text-note leading-snug text-ink-2">{answer}</p>
        </div>
        <div className="flex items-center gap-2">
          {tools}
          <SaveMenu
            height={H}
            svg={svg}
            fileName={fileName}
            csv={() => csvOf(`${x.name} [${x.unit}]`, series)}
            width={w}
          />
        </div>
      </figcaption>
      <Legend series={series.filter((s) => !s.silent)} wanted={wanted?.name} />
      <div ref={box}>
        <svg
          ref={svg}
          viewBox={`0 0 ${w} ${H}`}
          width="100%"
          height={H}
          role="img"
          tabIndex={0}
          aria-label={`${question} ${answer} Arrow keys read the values.`}
          onKeyDown={onKeyDown}
          onPointerMove={(event) => xs.length > 0 && setCursor(nearest(event.clientX))}
          onPointerLeave={() => setCursor(null)}
          className="block rounded-lg"
        >
          <defs>
            <pattern id={`felt-${fileName}`} width="5" height="5" patternUnits="userSpaceOnUse">
              <path d="M0 5L5 0M-1 1L1 -1M4 6L6 4" stroke="var(--felt)" strokeWidth="0.8" opacity="0.4" />
            </pattern>
          </defs>
          {wanted ? (
            <Wanted
              x={M.left}
              w={w - M.left - M.right}
              from={sy(wanted.high ?? y.domain[1])}
              to={sy(wanted.low ?? y.domain[0])}
              id={`felt-${fileName}`}
            />
          ) : null}
          {trustedAbove && trustedAbove > x.domain[0] && trustedAbove < x.domain[1] ? (
            <rect
              x={M.left}
              y={M.top}
              width={sx(trustedAbove) - M.left}
              height={H - M.bottom - M.top}
              fill="var(--floor)"
              opacity={0.7}
            />
          ) : null}
          {y.ticks.map((tick) => (
            <g key={tick}>
              <path d={`M${M.left} ${sy(tick)}H${w - M.right}`} stroke="var(--line)" strokeWidth={1} />
              <text x={M.left - 7} y={sy(tick) + 4} fontSize={11.5} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
                {yText(tick)}
              </text>
            </g>
          ))}
          {x.ticks.map((tick) => (
            <text
              key={tick}
              x={sx(tick)}
              y={H - M.bottom + 15}
              fontSize={11.5}
              textAnchor="middle"
              style={{ fill: 'var(--ink-2)' }}
            >
              {xText(tick)}
            </text>
          ))}
          <text x={w - M.right} y={H - 4} fontSize={11.5} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
            {x.name}, {x.unit}
          </text>
          <text x={4} y={H - 4} fontSize={11.5} style={{ fill: 'var(--ink-2)' }}>
            ↑ {y.name}, {y.unit}
          </text>
          <path d={`M${M.left} ${H - M.bottom}H${w - M.right}`} stroke="var(--line-strong)" strokeWidth={1.2} />
          {marks.map((mark, i) => (
            <g key={`${mark.x}-${mark.text}`}>
              <path
                d={`M${sx(mark.x)} ${M.top}V${H - M.bottom}`}
                stroke={mark.colour}
                strokeWidth={1}
                strokeDasharray="2 3"
              />
              <text
                x={sx(mark.x) + 4}
                y={
                  M.top +
                  10 +
                  14 *
                    crowded(
                      marks.slice(0, i).map((m) => sx(m.x)),
                      sx(mark.x),
                    )
                }
                fontSize={11.5}
                fontWeight={600}
                style={{ fill: mark.colour }}
              >
                {mark.text}
              </text>
            </g>
          ))}
          {series.map((s) => (
            <Drawn key={s.name} series={s} sx={sx} sy={sy} floor={H - M.bottom} />
          ))}
          {at !== null ? (
            <g pointerEvents="none">
              <path d={`M${sx(at)} ${M.top}V${H - M.bottom}`} stroke="var(--ink)" strokeWidth={1} />
              {series.map((s) => {
                const v = s.points.find((p) => p[0] === at)?.[1]
                return v === undefined || v === null ? null : (
                  <circle
                    key={s.name}
                    cx={sx(at)}
                    cy={sy(v)}
                    r={4}
                    fill={s.colour}
                    stroke="var(--card)"
                    strokeWidth={1.5}
                  />
                )
              })}
            </g>
          ) : null}
        </svg>
      </div>
      <p className="min-h-[1.2em] text-fine text-ink-2" aria-live="polite">
        {readout ?? ''}
      </p>
    </figure>
  )
}

/** How many labels before this one stand so near that it must go below them. */
const crowded = (before: readonly number[], at: number) => before.filter((x) => Math.abs(x - at) < 54).length

function Wanted({ x, w, from, to, id }: { x: number; w: number; from: number; to: number; id: string }) {
  const h = Math.max(to - from, 2)
  return (
    <g>
      <rect x={x} y={from} width={w} height={h} fill="var(--felt-soft)" opacity={0.75} />
      <rect x={x} y={from} width={w} height={h} fill={`url(#${id})`} />
    </g>
  )
}

type Scale = (value: number) => number

function Drawn({ series, sx, sy, floor }: { series: Series; sx: Scale; sy: Scale; floor: number }) {
  const known = series.points.filter((p): p is readonly [number, number] => p[1] !== null && Number.isFinite(p[1]))
  switch (series.kind) {
    case 'dots':
      return (
        <g>
          {known.map(([px, py]) => (
            <circle
              key={px}
              cx={sx(px)}
              cy={sy(py)}
              r={4.2}
              fill={series.colour}
              stroke="var(--card)"
              strokeWidth={1.5}
            />
          ))}
        </g>
      )
    case 'stems':
      return (
        <g stroke={series.colour} strokeWidth={series.width ?? 3} strokeLinecap="round">
          {known.map(([px, py]) => (
            <path key={px} d={`M${sx(px)} ${floor}V${sy(py)}`} />
          ))}
        </g>
      )
    default: {
      // A hole in the data is a hole in the line.
      const drawn = line<XY>()
        .defined((p) => p[1] !== null && Number.isFinite(p[1]))
        .x((p) => sx(p[0]))
        .y((p) => sy(p[1] ?? 0))
      return (
        <path
          d={drawn([...series.points]) ?? ''}
          fill="none"
          stroke={series.colour}
          strokeWidth={series.width ?? 2.4}
          strokeDasharray={series.dash}
          strokeLinejoin="round"
          strokeLinecap="round"
        />
      )
    }
  }
}

function Legend({ series, wanted }: { series: readonly Series[]; wanted: string | undefined }) {
  if (series.length + (wanted ? 1 : 0) === 0) return null
  return (
    <ul className="mt-0.5 flex flex-wrap gap-x-4 text-fine text-ink-2">
      {series.map((s) => (
        <li key={s.name} className="flex items-center gap-1.5">
          <svg width="24" height="10" aria-hidden>
            {s.kind === 'dots' ? (
              <circle cx="12" cy="5" r="4" fill={s.colour} />
            ) : (
              <path d="M1 5H23" stroke={s.colour} strokeWidth="2.6" strokeDasharray={s.dash} />
            )}
          </svg>
          {s.name}
        </li>
      ))}
      {wanted ? (
        <li className="flex items-center gap-1.5">
          <span aria-hidden className="inline-block h-2.5 w-6 rounded-full border border-felt bg-felt-soft" />
          {wanted}
        </li>
      ) : null}
    </ul>
  )
}
