import { PredictedStage } from '../../bench/predicted-stage'
import type { Step } from '../step'
import { MarksSide } from './marks'

export const marks: Step = {
  key: 'marks',
  name: 'Marks',
  question: 'Where does everybody stand?',
  filled: ({ document }) => document.arrangements.length > 0,
  Stage: () => <PredictedStage first="low" />,
  Side: MarksSide,
  layer: 'paths',
}
