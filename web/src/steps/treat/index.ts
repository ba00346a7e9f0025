import { PredictedStage } from '../../bench/predicted-stage'
import type { Step } from '../step'
import { TreatSide } from './treat'

export const treat: Step = {
  key: 'treat',
  name: 'Treat',
  question: 'What would help?',
  filled: ({ document }) => (document.arrangements[0]?.treatments.length ?? 0) > 0,
  Stage: PredictedStage,
  Side: TreatSide,
  layer: 'paths',
}
