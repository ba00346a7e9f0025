import { useCatalogue } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { type PointPx, radians, toPx } from '../geometry'
import type { Layer, PlanProps } from './layer'
import { noises } from './noises'

const LONG_M = 30

/** Where the microphone hears nothing, and what comes in: a null on the loudest is worth its price or not (Aim). */
function Plan(props: PlanProps) {
  const { active } = useRoom()
  const { patterns } = useCatalogue()
  const { view, sheet } = props
  const { at, aims_deg, tilt_deg, pattern } = active.microphone
  const a = patterns.find((p) => p.key === pattern)?.pressure ?? 0.5
  const mic = toPx([at[0], at[1]], view)
  const Noises = noises.Plan!
  return (
    <g>
      <Noises {...props} />
      <clipPath id="null-on-the-floor">
        <rect x={sheet.x} y={sheet.y} width={sheet.w} height={sheet.h} />
      </clipPath>
      <g clipPath="url(#null-on-the-floor)" pointerEvents="none" stroke="var(--mic)" data-testid="null-rays">
        {nullBearings(a, aims_deg, tilt_deg).map((bearing) => {
          const end: PointPx = [
            mic[0] + Math.cos(radians(bearing)) * LONG_M * view.pxPerM,
            mic[1] - Math.sin(radians(bearing)) * LONG_M * view.pxPerM,
          ]
          return (
            <path
              key={bearing}
              d={`M${mic.join(' ')}L${end.join(' ')}`}
              strokeWidth={1.6}
              strokeDasharray="2 6"
              strokeLinecap="round"
            />
          )
        })}
      </g>
    </g>
  )
}

/** Tilted so little, a null behind is still drawn on the plan: real ones are wider. */
const NEARLY_LEVEL_DEG = 15

/** Level bearings at which a + (1 - a) cos is nothing; none for an omni, or where it is tilted past them. [deg] */
export function nullBearings(a: number, aimsDeg: number, tiltDeg: number): number[] {
  if (a > 0.5) return []
  const level = -a / (1 - a) / Math.cos(radians(tiltDeg))
  if (Math.abs(level) > 1 + 1e-9) return Math.abs(tiltDeg) <= NEARLY_LEVEL_DEG ? [aimsDeg + 180] : []
  const off = (Math.acos(Math.max(level, -1)) * 180) / Math.PI
  return off > 179.5 ? [aimsDeg + 180] : [aimsDeg + off, aimsDeg - off]
}

export const nulls: Layer = {
  key: 'null',
  name: 'Null',
  says: 'Dotted: where the mic hears nothing, at ear height. Lines: noises on their way to it.',
  Plan,
}
