import { lazy } from 'react'
import { usePredicted } from '../../state/forecast'
import { FlutterMarks } from '../overlays'
import type { Layer, PlanProps } from './layer'

function Plan(sheet: PlanProps) {
  const { active } = usePredicted()
  return active ? <FlutterMarks pairs={active.flutter} {...sheet} /> : null
}

export const flutter: Layer = {
  key: 'flutter',
  name: 'Flutter',
  says: 'Hard walls that throw a clap to and fro.',
  Plan,
  Solid: lazy(() => import('../solid/flutter')),
}
