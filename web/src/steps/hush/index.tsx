import { KindsStage } from '../../bench/reading-stage'
import type { Step } from '../step'
import { HushSide } from './hush'

export const hush: Step = {
  key: 'hush',
  name: 'Hush',
  question: 'What makes noise?',
  filled: ({ measured }) => Boolean(measured?.hush),
  Stage: () => (
    <KindsStage
      form="tone"
      title="What is there when nobody plays?"
      text="Record a silence in Listen: ten seconds with the gain set as for a take."
    />
  ),
  Side: HushSide,
  layer: 'paths',
}
