import { PredictedStage } from '../../bench/predicted-stage'
import type { Step } from '../step'
import { BriefSide } from './brief'

export const brief: Step = {
  key: 'brief',
  name: 'Brief',
  question: 'What are you recording?',
  filled: ({ document }) => document.arrangements.length > 0,
  Stage: PredictedStage,
  Side: BriefSide,
  layer: 'paths',
}
