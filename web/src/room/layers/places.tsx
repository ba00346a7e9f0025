import { contours } from 'd3-contour'
import type { Schemas } from '../../api/client'
import { HEIGHTS, MAPPED, usePlaceMap } from '../../state/place-map'
import { Segmented } from '../../ui/segmented'
import { type PlanView, toPx } from '../geometry'
import type { Layer, PlanProps } from './layer'

type PlaceMap = Schemas['MapAnswer']
const BANDS = 5

/** Where it is good to stand, as felt laid on the floor: the thicker, the better. */
function Plan({ view }: PlanProps) {
  const { map } = usePlaceMap()
  if (!map) return null
  return (
    <g data-testid="place-map" pointerEvents="none">
      <Bands map={map} view={view} />
      {map.best.map((spot, i) => (
        <Best key={i} number={i + 1} at={spot.at} faces={spot.faces_deg} view={view} />
      ))}
    </g>
  )
}

function Bands({ map, view }: { map: PlaceMap; view: PlanView }) {
  const sign = map.better === 'more' ? 1 : -1
  const known = map.value.flat().filter((v): v is number => v !== null)
  if (known.length === 0) return null
  const [worst, best] = [Math.min(...known.map((v) => v * sign)), Math.max(...known.map((v) => v * sign))]
  const span = Math.max(best - worst, 1e-6)
  // where nobody can stand is a little worse than the worst: no felt lies there
  const flat = map.value.flatMap((row) => row.map((v) => (v === null ? -0.2 : (v * sign - worst) / span)))
  const [nx, ny] = [map.x_m.length, map.y_m.length]
  const rings = contours()
    .size([nx, ny])
    .thresholds([...Array(BANDS).keys()].map((i) => i / BANDS + 0.02))(flat)
  const place = ([cx, cy]: readonly number[]) =>
    toPx([map.x_m[0]! + (cx! - 0.5) * map.step_m, map.y_m[0]! + (cy! - 0.5) * map.step_m], view)
  return (
    <g>
      {rings.map((ring) => (
        <path
          key={ring.value}
          d={ring.coordinates
            .flat()
            .map(
              (outline) =>
                `M${outline
                  .map((p) =>
                    place(p)
                      .map((v) => v.toFixed(1))
                      .join(' '),
                  )
                  .join('L')}Z`,
            )
            .join('')}
          fill="var(--felt)"
          fillOpacity={0.13}
          fillRule="evenodd"
          stroke="var(--felt)"
          strokeOpacity={0.55}
          strokeWidth={0.8}
        />
      ))}
    </g>
  )
}

type BestProps = { number: number; at: readonly [number, number]; faces: number; view: PlanView }

function Best({ number, at, faces, view }: BestProps) {
  const [x, y] = toPx(at, view)
  const turn = (-faces * Math.PI) / 180
  const [dx, dy] = [Math.cos(turn), Math.sin(turn)]
  return (
    <g>
      <path
        d={`M${x + dx * 12} ${y + dy * 12}L${x + dx * 26} ${y + dy * 26}`}
        stroke="var(--felt)"
        strokeWidth={3}
        strokeLinecap="round"
      />
      <circle cx={x} cy={y} r={11} fill="var(--card)" stroke="var(--felt)" strokeWidth={2.4} />
      <text
        x={x}
        y={y + 4.5}
        fontSize={13}
        fontWeight={700}
        textAnchor="middle"
        style={{ fill: 'var(--felt)', fontFamily: 'var(--font-display)' }}
      >
        {number}
      </text>
    </g>
  )
}

function Tools() {
  const { mark, setMark, height, setHeight } = usePlaceMap()
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Segmented small label="Good for what" value={mark} options={MAPPED} onChange={setMark} />
      <Segmented small label="At which height" value={height} options={HEIGHTS} onChange={setHeight} />
    </div>
  )
}

export const places: Layer = {
  key: 'places',
  name: 'Places',
  says: 'Where it is good to stand: the thicker the felt, the better. Rings are the best three, with the way to face.',
  Plan,
  Tools,
}
