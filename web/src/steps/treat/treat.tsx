import { NextMoves } from '../../moves/next-moves'

/** What could be hung and done next, in its order. */
export const TreatSide = () => <NextMoves />
