import type { RoomDoc } from '../api/client'
import { type PlanView, type PointM, type RectPx, toPx } from './geometry'

type Piece = RoomDoc['furnishings'][number]
export type FurnishingKinds = Record<
  string,
  { name: string; size_m: readonly [number, number, number]; body?: readonly [number, number] }
>

const fallback = [1, 0.5, 1] as const
const sizeOf = (piece: Piece, kinds: FurnishingKinds) => piece.size_m ?? kinds[piece.kind]?.size_m ?? fallback

/** Screen rectangle around a piece, for keeping labels off it. */
export function footprint(piece: Piece, view: PlanView, kinds: FurnishingKinds): RectPx {
  const [length, depth] = sizeOf(piece, kinds)
  const turn = ((piece.turn_deg ?? 0) * Math.PI) / 180
  const w = (Math.abs(length * Math.cos(turn)) + Math.abs(depth * Math.sin(turn))) * view.pxPerM
  const h = (Math.abs(length * Math.sin(turn)) + Math.abs(depth * Math.cos(turn))) * view.pxPerM
  const [x, y] = toPx(piece.at as PointM, view)
  return { x: x - w / 2, y: y - h / 2, w, h }
}

type Props = {
  document: Pick<RoomDoc, 'furnishings' | 'arrangements'>
  view: PlanView
  kinds: FurnishingKinds
  labels?: boolean
}

export function Furniture({ document, view, kinds, labels = true }: Props) {
  return (
    <g>
      {document.furnishings.map((piece, i) => (
        <Furnishing key={i} piece={piece} view={view} kinds={kinds} labelled={labels} open={piece.open} />
      ))}
    </g>
  )
}

function Furnishing({
  piece,
  view,
  kinds,
  open,
  labelled,
}: {
  piece: Piece
  view: PlanView
  kinds: FurnishingKinds
  open: boolean
  labelled: boolean
}) {
  const [length, depth] = sizeOf(piece, kinds)
  const w = length * view.pxPerM
  const d = depth * view.pxPerM
  const [x, y] = toPx(piece.at as PointM, view)
  const box = footprint(piece, view, kinds)
  const name = kinds[piece.kind]?.name ?? piece.kind
  const upright = box.h > box.w * 1.3 && name.length * 7 > box.w - 6
  return (
    <g>
      <g transform={`translate(${x} ${y}) rotate(${-(piece.turn_deg ?? 0)})`}>
        <rect
          data-piece={piece.kind}
          x={-w / 2}
          y={-d / 2}
          width={w}
          height={d}
          rx={4}
          fill="var(--card)"
          stroke="var(--ink-2)"
          strokeWidth={1.3}
        />
        <Hint kind={piece.kind} w={w} d={d} open={open} />
      </g>
      {labelled ? (
        <text
          x={x}
          y={y + 4}
          textAnchor="middle"
          fontSize={12.5}
          style={{ fill: 'var(--ink-2)' }}
          transform={upright ? `rotate(-90 ${x} ${y})` : undefined}
          stroke="var(--card)"
          strokeWidth={5}
          paintOrder="stroke"
        >
          {name}
        </text>
      ) : null}
    </g>
  )
}

/** A hint of what a piece is, in its own frame: front towards +y before turning (down on the sheet). */
function Hint({ kind, w, d, open }: { kind: string; w: number; d: number; open: boolean }) {
  const ink = { fill: 'none', stroke: 'var(--line-strong)', strokeWidth: 1 } as const
  switch (kind) {
    case 'day-bed':
    case 'bed':
      return (
        <g {...ink}>
          <rect
            x={w / 2 - Math.min(48, w * 0.22)}
            y={-d / 2 + 6}
            width={Math.min(40, w * 0.18)}
            height={d - 12}
            rx={7}
          />
          <path d={`M${w / 2 - Math.min(62, w * 0.28)} ${-d / 2 + 3}V${d / 2 - 3}`} strokeDasharray="5 3" />
        </g>
      )
    case 'sofa':
    case 'armchair':
      return <path d={`M${-w / 2 + 8} ${d / 2}V${-d / 2 + d * 0.28}H${w / 2 - 8}V${d / 2}`} {...ink} />
    case 'wardrobe':
      return (
        <g {...ink}>
          <path d={`M${-w / 2 + 5} 0H${w / 2 - 5}`} strokeDasharray="1 0" />
          {Array.from({ length: Math.max(Math.floor(w / 11) - 1, 2) }, (_, i) => {
            const x = -w / 2 + 10 + i * 11
            return <path key={i} d={`M${x} ${-d * 0.26}L${x + 3} ${d * 0.26}`} opacity={0.8} />
          })}
          {open ? (
            <path
              d={`M${-w / 2} ${-d / 2}L${-w / 2 - w * 0.16} ${-d / 2 - w * 0.46}M${w / 2} ${-d / 2}L${w / 2 + w * 0.16} ${-d / 2 - w * 0.46}`}
              stroke="var(--ink)"
              strokeWidth={2.2}
            />
          ) : null}
        </g>
      )
    case 'bookcase':
    case 'shelf':
      return (
        <g {...ink}>
          {Array.from({ length: Math.max(Math.floor(w / 5) - 2, 2) }, (_, i) => (
            <path key={i} d={`M${-w / 2 + 7 + i * 5} ${d / 2 - 3}V${-d / 2 + 4 + ((i * 7) % 5) * 1.6}`} />
          ))}
        </g>
      )
    case 'desk':
      return <rect x={-w * 0.16} y={-d * 0.2} width={w * 0.32} height={d * 0.4} rx={2} {...ink} />
    case 'table':
      return <rect x={-w / 2 + 5} y={-d / 2 + 5} width={w - 10} height={d - 10} rx={2} {...ink} />
    case 'chair':
      return <path d={`M${-w / 2 + 4} ${-d / 2 + 5}H${w / 2 - 4}`} {...ink} strokeWidth={3} />
    case 'mattress':
      return (
        <path
          d={`M${-w / 2 + 6} 0H${w / 2 - 6}`}
          {...ink}
          strokeDasharray="2 6"
          strokeWidth={3}
          strokeLinecap="round"
        />
      )
    case 'clothes-rail':
      return (
        <g {...ink}>
          <path d={`M${-w / 2 + 4} 0H${w / 2 - 4}`} strokeWidth={2} />
          {Array.from({ length: Math.max(Math.floor(w / 8) - 1, 3) }, (_, i) => (
            <path key={i} d={`M${-w / 2 + 7 + i * 8} ${-d * 0.36}q3 ${d * 0.36} 0 ${d * 0.72}`} />
          ))}
        </g>
      )
    case 'piano':
      return (
        <g {...ink}>
          <path d={`M${-w / 2 + 4} ${d * 0.12}H${w / 2 - 4}`} />
          {Array.from({ length: Math.max(Math.floor(w / 6) - 1, 5) }, (_, i) => (
            <path key={i} d={`M${-w / 2 + 6 + i * 6} ${d * 0.12}V${d / 2 - 3}`} />
          ))}
        </g>
      )
    case 'grand-piano':
      return (
        <path
          d={`M${-w / 2 + 6} ${d * 0.3}H${w / 2 - 6}M${-w / 2 + 6} ${d * 0.3}V${-d / 2 + 8}q${w * 0.3} -4 ${w * 0.42} ${d * 0.3}T${w / 2 - 6} ${d * 0.3}`}
          {...ink}
        />
      )
    case 'chest':
      return <path d={`M${-w / 2 + 5} ${d / 2 - 5}H${w / 2 - 5}M-4 ${d / 2 - 9}H4`} {...ink} />
    case 'boxes':
      return (
        <path
          d={`M${-w / 2} ${-d / 2}L${w / 2} ${d / 2}M${w / 2} ${-d / 2}L${-w / 2} ${d / 2}`}
          {...ink}
          opacity={0.6}
        />
      )
    case 'person':
      return <circle r={Math.min(w, d) * 0.32} {...ink} />
    default:
      return null
  }
}
