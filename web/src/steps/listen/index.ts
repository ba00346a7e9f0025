import { ReadingStage } from '../../bench/reading-stage'
import type { Step } from '../step'
import { ListenSide } from './listen'

export const listen: Step = {
  key: 'listen',
  name: 'Listen',
  question: 'What does the room say?',
  filled: ({ measured }) => Boolean(measured?.bounce?.current),
  Stage: ReadingStage,
  Side: ListenSide,
  layer: 'paths',
  spots: true,
}
