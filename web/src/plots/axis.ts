import { scaleLinear } from 'd3-scale'
import type { Axis } from './xy-plot'

export const OCTAVES_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000]
export const hz = (f: number) => (f >= 1000 ? `${f / 1000}k` : String(f))
export const trueMinus = (v: number) => String(v).replace('-', '−')

/** Pitch along the bottom, on a logarithm. [Hz] */
export const pitchAxis = (domain: [number, number], ticks: number[]): Axis => ({
  name: 'pitch',
  unit: 'Hz',
  domain,
  ticks,
  log: true,
  text: hz,
})

/** A domain that ends on round figures, and a few of them as ticks. */
export function rounded(from: number, to: number, count = 5): { domain: [number, number]; ticks: number[] } {
  const scale = scaleLinear().domain([from, to]).nice(count)
  const [low, high] = scale.domain() as [number, number]
  return { domain: [low, high], ticks: scale.ticks(count) }
}

/** Ticks within a domain that is kept as it is. */
export const ticksOf = (from: number, to: number, count = 6) => scaleLinear().domain([from, to]).ticks(count)

/** Seconds from nothing up, with room above the longest. [s] */
export const secondsAxis = (name: string, longest: number): Axis => ({
  name,
  unit: 's',
  ...rounded(0, longest + 0.05),
  text: (v) => v.toFixed(1),
})
