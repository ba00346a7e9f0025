/** 32-bit float WAV of one or more channels: nothing is lost between the browser and the analysis. */
export function wavOf(channels: readonly Float32Array[], sampleRateHz: number): Blob {
  const count = channels.length
  const n = channels[0]?.length ?? 0
  const dataBytes = n * count * 4
  const buffer = new ArrayBuffer(58 + dataBytes)
  const view = new DataView(buffer)
  const text = (at: number, word: string) => [...word].forEach((ch, i) => view.setUint8(at + i, ch.charCodeAt(0)))
  text(0, 'RIFF')
  view.setUint32(4, 50 + dataBytes, true)
  text(8, 'WAVEfmt ')
  view.setUint32(16, 18, true)
  view.setUint16(20, 3, true) // IEEE float
  view.setUint16(22, count, true)
  view.setUint32(24, sampleRateHz, true)
  view.setUint32(28, sampleRateHz * count * 4, true)
  view.setUint16(32, count * 4, true)
  view.setUint16(34, 32, true)
  view.setUint16(36, 0, true)
  text(38, 'fact')
  view.setUint32(42, 4, true)
  view.setUint32(46, n, true)
  text(50, 'data')
  view.setUint32(54, dataBytes, true)
  let at = 58
  for (let i = 0; i < n; i += 1)
    for (let c = 0; c < count; c += 1) {
      view.setFloat32(at, channels[c]![i]!, true)
      at += 4
    }
  return new Blob([buffer], { type: 'audio/wav' })
}

export function joined(blocks: readonly Float32Array[]): Float32Array {
  const whole = new Float32Array(blocks.reduce((sum, block) => sum + block.length, 0))
  let at = 0
  for (const block of blocks) {
    whole.set(block, at)
    at += block.length
  }
  return whole
}
