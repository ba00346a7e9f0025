import type { Step } from '../step'
import { MarksSide } from './marks'
import { MarksStage } from './stage'

export const marks: Step = {
  key: 'marks',
  name: 'Marks',
  question: 'Where does everybody stand?',
  filled: ({ document }) => document.arrangements.length > 0,
  strings: 'column',
  Stage: MarksStage,
  Side: MarksSide,
  layer: 'paths',
}
