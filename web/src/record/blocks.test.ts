import { describe, expect, it } from 'vitest'
import { Blocks } from './blocks'

const RATE = 1000
const tone = (n: number, value: number) => new Float32Array(n).fill(value)
const taken = (blocks: Blocks) => {
  const found = []
  for (let block = blocks.first(); block; block = blocks.first()) {
    found.push([block.fromMs, block.pcm.length, block.pcm[0]] as const)
    blocks.drop()
  }
  return found
}

describe('blocks of a watch', () => {
  it('follow each other by their sound, whatever the clock jitters', () => {
    const blocks = new Blocks(RATE, 10)
    for (let i = 1; i <= 250; i += 1) blocks.add(tone(100, 0.5), 50_000 + i * 100 + (i % 7) * 40)
    expect(taken(blocks)).toEqual([
      [50_040, 10_000, 16383],
      [60_040, 10_000, 16383],
    ])
  })
  it('leave a gap after a sleep and keep the whole seconds before it', () => {
    const blocks = new Blocks(RATE, 10)
    for (let i = 1; i <= 45; i += 1) blocks.add(tone(100, 0.1), i * 100)
    for (let i = 1; i <= 100; i += 1) blocks.add(tone(100, 0.2), 3_600_000 + i * 100)
    expect(taken(blocks)).toEqual([
      [0, 4000, 3276],
      [3_600_000, 10_000, 6553],
    ])
  })
  it('cut what is louder than full scale and drop what is oldest when nothing can be sent', () => {
    const blocks = new Blocks(RATE, 1)
    for (let i = 1; i <= 70; i += 1) blocks.add(tone(1000, 3), i * 1000)
    const found = taken(blocks)
    expect(found).toHaveLength(60)
    expect(found[0]).toEqual([10_000, 1000, 32767])
  })
})
