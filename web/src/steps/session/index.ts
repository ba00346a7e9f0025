import type { Step } from '../step'
import { isToday, SessionSide, SessionStage } from './session'

export const session: Step = {
  key: 'session',
  name: 'Session',
  question: 'What happened today?',
  filled: ({ readings }) => readings.some((r) => isToday(r.taken_at)),
  strings: 'row',
  Stage: SessionStage,
  Side: SessionSide,
  layer: 'paths',
}
