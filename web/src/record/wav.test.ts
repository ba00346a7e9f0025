import { expect, it } from 'vitest'
import { joined, wavOf } from './wav'

it('writes a float WAV whose header says what it holds', async () => {
  const wav = wavOf([new Float32Array([0.5, -1]), new Float32Array([0, 0.25])], 44100)
  const view = new DataView(await wav.arrayBuffer())
  const word = (at: number) => String.fromCharCode(...[0, 1, 2, 3].map((i) => view.getUint8(at + i)))
  expect([word(0), word(8), word(50)]).toEqual(['RIFF', 'WAVE', 'data'])
  expect(view.getUint32(4, true)).toBe(wav.size - 8)
  expect(view.getUint16(22, true)).toBe(2)
  expect(view.getUint32(24, true)).toBe(44100)
  expect(view.getUint32(54, true)).toBe(16)
  expect([58, 62, 66, 70].map((at) => view.getFloat32(at, true))).toEqual([0.5, 0, -1, 0.25])
})

it('joins blocks in order', () => {
  expect([...joined([new Float32Array([1]), new Float32Array([2, 3])])]).toEqual([1, 2, 3])
})
