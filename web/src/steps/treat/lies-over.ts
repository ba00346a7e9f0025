type Piece = {
  surface: string
  x_m: number
  z_m: number
  width_m: number
  height_m: number
  kind: string
  label?: string | null
}
const TOUCH_M = 0.02

/** What a piece lies over by more than it touches: another piece, a window, a door; null where it hangs free. */
export function liesOver(piece: Piece, others: readonly Piece[]): string | null {
  const over = others.find(
    (o) =>
      o.surface === piece.surface &&
      Math.min(piece.x_m + piece.width_m, o.x_m + o.width_m) - Math.max(piece.x_m, o.x_m) > TOUCH_M &&
      Math.min(piece.z_m + piece.height_m, o.z_m + o.height_m) - Math.max(piece.z_m, o.z_m) > TOUCH_M,
  )
  return over ? (over.label ?? over.kind) : null
}
