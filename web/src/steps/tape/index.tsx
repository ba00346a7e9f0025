import { PredictedStage } from '../../bench/predicted-stage'
import type { Step } from '../step'
import { TapeSide } from './tape'

export const tape: Step = {
  key: 'tape',
  name: 'Tape',
  question: 'What is the room like?',
  filled: ({ document }) => document.arrangements.length > 0,
  Stage: () => <PredictedStage formulas />,
  Side: TapeSide,
  // with a tape in hand the plan itself is what is handled; paths would lie in the way until they are asked for
  layer: 'bare',
  shapes: true,
}
