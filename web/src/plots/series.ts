export type XY = readonly [x: number, y: number | null]
export type Series = {
  name: string
  unit: string
  points: readonly XY[]
  colour: string
  kind: 'line' | 'dots' | 'stems' | 'steps'
  dash?: string
  width?: number
  /** Left out of the legend when it explains itself. */
  silent?: boolean
}
