import { NextMoves } from '../../moves/next-moves'
import { ProveIt } from '../../moves/prove-it'

/** What was done and is not proved yet; then what could be hung and done next, in its order. */
export const TreatSide = () => (
  <>
    <ProveIt />
    <NextMoves />
  </>
)
