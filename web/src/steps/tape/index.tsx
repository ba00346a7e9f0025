import type { Step } from '../step'
import { TapeSide, TapeStage } from './tape'

export const tape: Step = {
  key: 'tape',
  name: 'Tape',
  question: 'What is the room like?',
  filled: ({ document }) => document.arrangements.length > 0,
  strings: 'row',
  Stage: TapeStage,
  Side: TapeSide,
  // with a tape in hand the plan itself is what is handled; paths would lie in the way until they are asked for
  layer: 'bare',
  shapes: true,
  keys: [
    ['Tab', 'go to the next wall, corner or piece of furniture'],
    ['Arrow keys', 'move a wall or corner by 1 cm'],
  ],
}
