import { KindsStage } from '../../bench/reading-stage'
import type { Step } from '../step'
import { TakeSide } from './take'

export const take: Step = {
  key: 'take',
  name: 'Take',
  question: 'Is the take well recorded?',
  filled: ({ readings }) => readings.some((r) => r.form === 'take' && r.verdict.usable),
  Stage: () => (
    <KindsStage
      form="take"
      title="Is the level right?"
      text="Record or bring a test take: your quietest and your loudest phrase."
    />
  ),
  Side: TakeSide,
  layer: 'paths',
}
