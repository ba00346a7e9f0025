import type { Step } from '../step'
import { TreatSide } from './treat'
import { TreatStage } from './stage'

export const treat: Step = {
  key: 'treat',
  name: 'Treat',
  question: 'What would help?',
  filled: ({ document }) => (document.arrangements[0]?.treatments.length ?? 0) > 0,
  strings: 'row',
  Stage: TreatStage,
  Side: TreatSide,
  layer: 'paths',
  view: 'walls',
  keys: [
    ['Arrow keys', 'move the piece in focus along its surface'],
    ['Esc', 'put back the piece being tried'],
  ],
}
