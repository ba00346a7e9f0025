import { scaleLog } from 'd3-scale'
import type { Schemas } from '../../api/client'

export type Distance = Schemas['DistanceAnswer']

/** The nearest and the furthest distance that a curve was worked out for. [m] */
export const endsOf = ({ distance_m }: Distance) => [distance_m[0]!, distance_m.at(-1)!] as const

/** Where a distance lies on the tape, and back. [m, px] */
export const tapeScale = (endsM: readonly [number, number], left: number, right: number) =>
  scaleLog().domain(endsM).range([left, right]).clamp(true)

/** A figure of the curve at a distance between those it was worked out for, null where one of both is. */
export function figureAt(curve: Distance, values: readonly (number | null)[], distanceM: number): number | null {
  const d = curve.distance_m
  const after = Math.min(
    Math.max(
      d.findIndex((v) => v >= distanceM),
      1,
    ),
    d.length - 1,
  )
  const [low, high] = [values[after - 1], values[after]]
  if (low == null || high == null) return low ?? high ?? null
  const share = Math.log(distanceM / d[after - 1]!) / Math.log(d[after]! / d[after - 1]!)
  return low + (high - low) * Math.min(Math.max(share, 0), 1)
}
