import { usePredicted } from '../../state/forecast'
import { useColours } from './colours'
import { Line } from './line'

/** Where hard walls face each other squarely, outlined on one of them. */
export default function Flutter() {
  const { active } = usePredicted()
  const { bounce } = useColours()
  return (active?.flutter ?? []).map((pair) => (
    <Line key={pair.surfaces.join()} points={[...pair.outline, pair.outline[0]!]} colour={bounce} />
  ))
}
