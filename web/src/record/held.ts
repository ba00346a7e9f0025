import { Refused } from '../api/client'

/** A block of a watch that the server does not have yet. */
export type Held = {
  watchId: string
  fromMs: number
  offsetMin: number
  rateHz: number
  pcm: Int16Array<ArrayBuffer>
}

/** Where blocks wait, those of each watch in the order of their time. */
export type Shelf = {
  put: (block: Held) => Promise<void>
  first: (watchId: string) => Promise<Held | undefined>
  drop: (block: Held) => Promise<void>
  count: (watchId: string) => Promise<number>
}

const WHOLE_BYTES = 100e6
const MOST_BYTES = 200e6
const ONE_OF = 30 // three seconds of each minute and a half, once so much waits: a night then fits
const IN_MEMORY = 60
const RETRY_MS = [1000, 2000, 4000, 8000, 15_000, 30_000, 60_000]
const TAKEN_OVER = 409
const GONE = 404
const IDLE_MS = 1000
const NO_BLOCK = [400, 413, 422] // it would be refused again

export type Heard = { levelDba: number | null; clipsFull: boolean }
type Tell = (part: Partial<Heard> & { trouble: string | null }) => void
type Answer = { level_dba?: number | null; flags: string[] }

/**
 * Blocks of one watch on their way to the server. What cannot be sent waits on the shelf and is sent again after growing
 * pauses, in order, whatever the answer was but a refusal of the block itself.
 */
export class Sender {
  #inMemory: Held[] = []
  #onDisk = true
  #bytes = 0
  #added = 0

  constructor(
    private readonly watchId: string,
    private readonly shelf: Shelf,
    private readonly post: (block: Held) => Promise<Answer>,
    private readonly tell: Tell,
    private readonly pause: (ms: number) => Promise<void>,
  ) {}

  /** A block more; one of many is kept once so much waits that a night would not fit. */
  async add(block: Held) {
    this.#added += 1
    const waiting = this.#bytes
    if (waiting > MOST_BYTES || (waiting > WHOLE_BYTES && this.#added % ONE_OF)) return
    this.#bytes += block.pcm.byteLength
    try {
      if (this.#onDisk) return await this.shelf.put(block)
    } catch {
      this.#onDisk = false // a private window, or a full disk
    }
    this.#inMemory.push(block)
    if (this.#inMemory.length > IN_MEMORY) this.#bytes -= this.#inMemory.shift()!.pcm.byteLength
  }

  /** Sends what is there and what comes, until `signal`. Throws when somebody else listens or the watch is over. */
  async run(signal: AbortSignal) {
    let tries = 0
    while (!signal.aborted) {
      const { moved, trouble } = await this.#step()
      tries = trouble ? tries + 1 : 0
      if (trouble) this.tell({ trouble: `${trouble} ${await this.#waiting()}` })
      if (!moved) await this.pause(trouble ? RETRY_MS[Math.min(tries, RETRY_MS.length) - 1]! : IDLE_MS)
    }
  }

  /** Sends what waits, as far as it goes at once; whether all of it went. */
  async drained(): Promise<boolean> {
    for (;;) {
      const { moved, trouble } = await this.#step()
      if (!moved) return trouble === null
    }
  }

  async #step(): Promise<{ moved: boolean; trouble: string | null }> {
    const block = await this.#first()
    if (!block) {
      this.#bytes = 0
      return { moved: false, trouble: null }
    }
    try {
      const kept = await this.post(block)
      const moved = await this.#drop(block)
      this.tell({
        levelDba: kept.level_dba ?? null,
        trouble: null,
        ...(kept.flags.includes('clips_full') ? { clipsFull: true } : {}),
      })
      return { moved, trouble: null }
    } catch (error) {
      if (!(error instanceof Refused)) return { moved: false, trouble: 'Keen Quiet is not answering.' }
      if (error.status === TAKEN_OVER || error.status === GONE || error.field === 'watch') {
        await this.#drop(block)
        throw error
      }
      if (!NO_BLOCK.includes(error.status)) return { moved: false, trouble: error.reason }
      const moved = await this.#drop(block)
      this.tell({ trouble: `${error.reason} ${error.cure}` })
      return { moved, trouble: null }
    }
  }

  async #first(): Promise<Held | undefined> {
    const onDisk = await this.shelf.first(this.watchId).catch(() => undefined)
    const here = this.#inMemory[0]
    return onDisk && here ? (onDisk.fromMs <= here.fromMs ? onDisk : here) : (onDisk ?? here)
  }

  /** Whether it is gone: one that the browser does not let go of comes again, and must not come at once. */
  async #drop(block: Held): Promise<boolean> {
    this.#bytes = Math.max(this.#bytes - block.pcm.byteLength, 0)
    if (this.#inMemory[0] === block) return Boolean(this.#inMemory.shift())
    return this.shelf.drop(block).then(
      () => true,
      () => false,
    )
  }

  /** What is kept where, in words. */
  async #waiting(): Promise<string> {
    const block = await this.#first()
    if (!block) return ''
    const seconds = block.pcm.length / block.rateHz
    const stored = await this.shelf.count(this.watchId).catch(() => 0)
    this.#bytes = Math.max(this.#bytes, stored * block.pcm.byteLength)
    const spent = told((stored + this.#inMemory.length) * seconds)
    const where = this.#onDisk ? 'on this device' : 'on this page only, which cannot keep more than a few minutes'
    if (this.#bytes > MOST_BYTES) return `${spent} wait ${where}; no more fits, what follows is a gap.`
    const thinned = this.#bytes > WHOLE_BYTES ? ' Of what follows three seconds of every ninety are kept.' : ''
    return `${spent} wait ${where} and are sent later.${thinned}`
  }
}

const told = (seconds: number) => (seconds < 90 ? `${Math.round(seconds)} s` : `${Math.round(seconds / 60)} min`)
