import { describe, expect, it } from 'vitest'
import { Blocks } from './blocks'

const RATE = 1000
const tone = (n: number, value: number) => new Float32Array(n).fill(value)
const cut = (seconds: number) => {
  const found: (readonly [number, number, number | undefined])[] = []
  const blocks = new Blocks(RATE, seconds, ({ fromMs, pcm }) => found.push([fromMs, pcm.length, pcm[0]]))
  return { blocks, found }
}

describe('blocks of a watch', () => {
  it('follow each other by their sound, whatever the clock jitters', () => {
    const { blocks, found } = cut(10)
    for (let i = 1; i <= 250; i += 1) blocks.add(tone(100, 0.5), 50_000 + i * 100 + (i % 7) * 40)
    expect(found).toEqual([
      [50_040, 10_000, 16383],
      [60_040, 10_000, 16383],
    ])
  })
  it('leave a gap after a sleep and keep the whole seconds before it', () => {
    const { blocks, found } = cut(10)
    for (let i = 1; i <= 45; i += 1) blocks.add(tone(100, 0.1), i * 100)
    for (let i = 1; i <= 100; i += 1) blocks.add(tone(100, 0.2), 3_600_000 + i * 100)
    expect(found).toEqual([
      [0, 4000, 3276],
      [3_600_000, 10_000, 6553],
    ])
  })
  it('cut what is louder than full scale', () => {
    const { blocks, found } = cut(1)
    blocks.add(tone(1000, 3), 1000)
    expect(found).toEqual([[0, 1000, 32767]])
  })
})
