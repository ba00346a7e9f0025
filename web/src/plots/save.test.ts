import { expect, it } from 'vitest'
import { csvOf } from './save'

it('writes figures with units in the header and holes as holes', () => {
  const series = [
    {
      name: 'measured',
      unit: 's',
      points: [
        [63, null],
        [125, 0.5],
      ] as const,
      colour: '',
      kind: 'dots' as const,
    },
    { name: 'predicted, after', unit: 's', points: [[125, 0.4]] as const, colour: '', kind: 'line' as const },
  ]
  expect(csvOf('pitch [Hz]', series)).toBe('pitch [Hz],measured [s],"predicted, after [s]"\n63,,\n125,0.5,0.4\n')
})
