import type { Step } from '../step'
import { LedgerSide } from './ledger'
import { LedgerStage } from './stage'

export const ledger: Step = {
  key: 'ledger',
  name: 'Ledger',
  question: 'Did it work?',
  filled: ({ readings }) => readings.length > 0,
  strings: 'none',
  Stage: LedgerStage,
  Side: LedgerSide,
  layer: 'paths',
  keys: [
    ['Tab', 'go to the next move'],
    ['Enter', 'open it'],
  ],
}
