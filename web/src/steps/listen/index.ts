import type { Step } from '../step'
import { ListenSide, ListenStage } from './listen'

export const listen: Step = {
  key: 'listen',
  name: 'Listen',
  question: 'What does the room say?',
  filled: ({ measured }) => Boolean(measured?.bounce?.current),
  strings: 'column',
  Stage: ListenStage,
  Side: ListenSide,
  layer: 'paths',
  reads: true,
  keys: [
    ['← →', 'read single pitches and times in the open plot'],
    ['Enter', 'open the reading in focus'],
  ],
}
