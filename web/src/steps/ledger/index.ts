import { ReadingStage } from '../../bench/reading-stage'
import type { Step } from '../step'
import { LedgerSide } from './ledger'

export const ledger: Step = {
  key: 'ledger',
  name: 'Ledger',
  question: 'What has changed, and by how much?',
  filled: ({ readings }) => readings.length > 0,
  Stage: ReadingStage,
  Side: LedgerSide,
  layer: 'paths',
  spots: true,
}
