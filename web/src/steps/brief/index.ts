import type { Step } from '../step'
import { BriefSide, BriefStage } from './brief'

export const brief: Step = {
  key: 'brief',
  name: 'Brief',
  question: 'What are you recording?',
  filled: ({ document }) => document.arrangements.length > 0,
  strings: 'felts',
  Stage: BriefStage,
  Side: BriefSide,
  layer: 'paths',
  keys: [
    ['Tab', 'go to the next blank'],
    ['Enter', 'take what is typed'],
  ],
}
