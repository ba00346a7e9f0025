import { describe, expect, it } from 'vitest'
import { lengthText } from './units'

describe('lengthText', () => {
  it.each([
    [3.6195, `11' 10 1/2"`],
    [0.3048, `1' 0"`],
    [0.0254 * 0.75, `3/4"`],
    [0.0254 * 4.125, `4 1/8"`],
    [2.4384, `8' 0"`],
  ])('shows %f m on an imperial tape', (metres, shown) => {
    expect(lengthText(metres, 'imperial')).toBe(shown)
  })
  it('shows metres to the centimetre', () => {
    expect(lengthText(3.619, 'metric')).toBe('3.62 m')
  })
})
