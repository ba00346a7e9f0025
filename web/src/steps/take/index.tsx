import type { Step } from '../step'
import { TakeStage } from './stage'
import { TakeSide } from './take'

export const take: Step = {
  key: 'take',
  name: 'Take',
  question: 'Is the take well recorded?',
  filled: ({ readings }) => readings.some((r) => r.form === 'take' && r.verdict.usable),
  strings: 'row',
  Stage: TakeStage,
  Side: TakeSide,
  layer: 'paths',
  reads: true,
}
