import type { MarkKey } from '../api/client'
import { along, wantedStretch } from './scales'

type Props = {
  mark: MarkKey
  measured?: { value: number; current: boolean } | null | undefined
  predicted?: { value: number; plus_minus: number } | null
  /** Where the ring stood before the move being tried. */
  former?: number | null
  wanted: { low?: number | null; high?: number | null }
  width?: number
  compact?: boolean
}

/** A bead on a string: black bead = measured, ring = predicted with its uncertainty, felt = wanted, arc = the change. */
export function BeadString({ mark, measured, predicted, former, wanted, width = 296, compact = false }: Props) {
  const h = compact ? 18 : 25
  const y = compact ? 9 : 15
  const x = (value: number) => 6 + along(mark, value) * (width - 12)
  const [from, to] = wantedStretch(mark, wanted).map((t) => 6 + t * (width - 12)) as [number, number]
  const trying = former !== null && former !== undefined && predicted && Math.abs(x(former) - x(predicted.value)) > 4
  const ring = trying ? 'var(--change)' : 'var(--ink)'
  return (
    <svg
      viewBox={`0 0 ${width} ${h}`}
      width="100%"
      height={h}
      preserveAspectRatio="none"
      aria-hidden="true"
      className="block overflow-visible"
    >
      <rect
        x={from}
        y={y - 6.5}
        width={Math.max(to - from, 2)}
        height={13}
        rx={6}
        fill="var(--felt-soft)"
        stroke="var(--felt)"
        strokeWidth={1}
      />
      <rect x={from} y={y - 6.5} width={Math.max(to - from, 2)} height={13} rx={6} fill="url(#felt-weave)" />
      <path d={`M4 ${y}H${width - 4}`} stroke="var(--line-strong)" strokeWidth={1.3} />
      {trying && predicted && !compact ? (
        <path
          d={`M${x(former)} ${y - 7}Q${(x(former) + x(predicted.value)) / 2} ${y - 21} ${x(predicted.value)} ${y - 8}`}
          fill="none"
          stroke="var(--change)"
          strokeWidth={1.4}
          strokeDasharray="3 3"
        />
      ) : null}
      {predicted ? (
        <g style={{ transform: `translateX(${x(predicted.value)}px)`, transition: 'transform 240ms ease-out' }}>
          <path
            d={`M${x(predicted.value - predicted.plus_minus) - x(predicted.value)} ${y}H${x(predicted.value + predicted.plus_minus) - x(predicted.value)}`}
            stroke={ring}
            strokeWidth={4.5}
            opacity={0.45}
            strokeLinecap="round"
          />
          <circle cx={0} cy={y} r={6.2} fill="var(--card)" stroke={ring} strokeWidth={2.2} />
        </g>
      ) : null}
      {measured ? (
        <circle
          cx={x(measured.value)}
          cy={y}
          r={5.4}
          fill={measured.current ? 'var(--ink)' : 'var(--line-strong)'}
          stroke="var(--card)"
          strokeWidth={1.5}
        />
      ) : null}
    </svg>
  )
}
