import { useRoom } from '../state/room'
import { radians } from './geometry'
import { type Placement, useMovable } from './movable'
import { type PlanView, type PointM, toPx } from './geometry'
import type { Extent } from './geometry'

type Look = { colour: string; shape: 'saltire' | 'upright' | 'tee' | 'chair' | 'laptop'; pattern?: number }

type Props = {
  label: string
  view: PlanView
  within: Extent
  allowed?: (at: PointM) => boolean
  placement: Placement
  look: Look
  labelAt: 'above' | 'below'
  /** Whoever stands so near that the handle to turn by would lie on them: it is held out further. */
  other?: PointM
  onMove: (next: Placement) => void
  onMoveEnd: (next: Placement) => void
}

const ARM = 11
const REACH = 34
/** Past a neighbour's own handle. */
const FAR_REACH = 64
const GRIP = 20
/** Of marks that are no plain cross, looking along +x: a bar before a stem, a lid behind its keys. */
const STROKES: Partial<Record<Look['shape'], string>> = {
  tee: `M${ARM} ${-ARM}V${ARM}M${ARM} 0H${-ARM}`,
  laptop: `M${-ARM + 2} ${-ARM}V${ARM}M1 ${-ARM + 3}V${ARM - 3}`,
}

/** A cross of tape on the floor with a soft wedge for where it faces. Each kind has its own cross. */
export function TapeMark({ label, view, within, allowed, placement, look, labelAt, other, onMove, onMoveEnd }: Props) {
  const { preview } = useRoom()
  const onGivenUp = () => preview(null)
  const { handleProps, turnProps } = useMovable({ view, within, allowed, placement, onMove, onMoveEnd, onGivenUp })
  const [x, y] = toPx(placement.at, view)
  const face = -placement.facesDeg
  const [dx, dy] = [Math.cos(radians(face)), Math.sin(radians(face))]
  const [ox, oy] = other ? toPx(other, view) : [Infinity, Infinity]
  const reach = Math.hypot(x + dx * REACH - ox, y + dy * REACH - oy) < GRIP + 10 ? FAR_REACH : REACH
  return (
    <g transform={`translate(${x} ${y})`}>
      <g transform={`rotate(${face})`} pointerEvents="none">
        {look.pattern === undefined ? (
          <path
            d={`M0 0L${REACH} -15A${REACH + 4} ${REACH + 4} 0 0 1 ${REACH} 15Z`}
            fill={look.colour}
            opacity={0.17}
          />
        ) : (
          <path d={lobe(look.pattern)} fill={look.colour} opacity={0.17} />
        )}
      </g>
      <g
        {...handleProps}
        role="button"
        tabIndex={0}
        aria-label={`${label}: drag, or move with the arrow keys (1 cm, with Shift 10 cm), turn with [ and ]`}
        style={{ cursor: 'grab', touchAction: 'none' }}
      >
        <circle r={GRIP} fill="transparent" />
        <g
          stroke={look.colour}
          strokeWidth={6.5}
          strokeLinecap="butt"
          transform={look.shape === 'saltire' ? 'rotate(41)' : `rotate(${look.shape === 'upright' ? 4 : face})`}
        >
          <path d={STROKES[look.shape] ?? `M${-ARM} 0H${ARM}M0 ${-ARM}V${ARM}`} />
        </g>
        {look.shape === 'upright' ? <circle r={3.2} fill="var(--floor)" /> : null}
      </g>
      <circle
        {...turnProps}
        cx={dx * reach}
        cy={dy * reach}
        r={9}
        fill="transparent"
        style={{ cursor: 'crosshair', touchAction: 'none' }}
        data-turn={label}
      >
        <title>{`Turn the ${label}`}</title>
      </circle>
      <circle
        cx={dx * reach}
        cy={dy * reach}
        r={3.4}
        fill="var(--card)"
        stroke={look.colour}
        strokeWidth={1.6}
        pointerEvents="none"
      />
      <text
        y={labelAt === 'above' ? -19 : 29}
        textAnchor="middle"
        fontSize={15}
        fontWeight={650}
        style={{ fill: look.colour, fontFamily: 'var(--font-display)' }}
        stroke="var(--floor)"
        strokeWidth={4}
        paintOrder="stroke"
        pointerEvents="none"
      >
        {label}
      </text>
    </g>
  )
}

/** Outline of a first-order pattern a + (1 - a) cos, the axis along +x. */
function lobe(a: number): string {
  const points = Array.from({ length: 73 }, (_, i) => {
    const t = (i / 72) * 2 * Math.PI
    const r = Math.abs(a + (1 - a) * Math.cos(t)) * (REACH + 4)
    return `${(Math.cos(t) * r).toFixed(1)} ${(Math.sin(t) * r).toFixed(1)}`
  })
  return `M${points.join('L')}Z`
}
