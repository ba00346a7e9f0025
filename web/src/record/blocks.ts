const SLEPT_MS = 2500

export type Block = { fromMs: number; pcm: Int16Array<ArrayBuffer> }

/** Samples cut into blocks whose time follows the sound; after a sleep the clock is asked anew, and the gap stays one. */
export class Blocks {
  private samples: Float32Array
  private filled = 0
  private startMs: number | null = null

  constructor(
    private readonly rateHz: number,
    seconds: number,
    private readonly whole: (block: Block) => void,
  ) {
    this.samples = new Float32Array(Math.round(rateHz * seconds))
  }

  /** More samples, whose last came at `nowMs`. */
  add(more: Float32Array, nowMs: number) {
    const moreMs = (1000 * more.length) / this.rateHz
    const spentMs = (1000 * this.filled) / this.rateHz
    if (this.startMs === null || Math.abs(nowMs - moreMs - (this.startMs + spentMs)) > SLEPT_MS) {
      this.close()
      this.startMs = Math.round(nowMs - moreMs)
    }
    for (let at = 0; at < more.length;) {
      const part = more.subarray(at, at + this.samples.length - this.filled)
      this.samples.set(part, this.filled)
      this.filled += part.length
      at += part.length
      if (this.filled === this.samples.length) this.close()
    }
  }

  /** What is whole seconds of the block that is filling is kept; the next begins where it ended. */
  private close() {
    const whole = Math.floor(this.filled / this.rateHz) * Math.round(this.rateHz)
    if (this.startMs !== null && whole > 0) {
      const pcm = new Int16Array(whole)
      for (let i = 0; i < whole; i += 1) pcm[i] = Math.max(-1, Math.min(1, this.samples[i]!)) * 32767
      this.whole({ fromMs: this.startMs, pcm })
      this.startMs += Math.round((1000 * whole) / this.rateHz)
    }
    this.filled = 0
  }
}
