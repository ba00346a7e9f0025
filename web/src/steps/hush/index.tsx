import type { Step } from '../step'
import { HushSide } from './hush'
import { HushStage } from './stage'

export const hush: Step = {
  key: 'hush',
  name: 'Hush',
  question: 'When is it quiet enough?',
  filled: ({ measured }) => Boolean(measured?.hush),
  strings: 'row',
  Stage: HushStage,
  Side: HushSide,
  layer: 'bare',
}
