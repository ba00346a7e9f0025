import { describe, expect, it } from 'vitest'
import { liesOver } from './lies-over'

const at = (surface: string, x_m: number, z_m: number, kind = 'panel') => ({
  surface,
  x_m,
  z_m,
  width_m: 1,
  height_m: 1,
  kind,
})

describe('a piece that lies over another', () => {
  it.each([
    ['beside it on the same wall', at('wall-1', 1, 0), null],
    ['above it', at('wall-1', 0, 1), null],
    ['touching by a centimetre', at('wall-1', 0.99, 0), null],
    ['half over it', at('wall-1', 0.5, 0.5), 'panel'],
    ['on another wall', at('wall-2', 0, 0), null],
    ['a window', at('wall-1', 0.2, 0.2, 'window'), 'window'],
  ])('%s', (_, other, said) => expect(liesOver(at('wall-1', 0, 0), [other])).toBe(said))
})
