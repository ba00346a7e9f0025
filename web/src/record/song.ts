import { api, type Reading, Refused, type Schemas, unwrap } from '../api/client'
import { sent } from '../api/queries'

const BLOCK_S = 1
const RETRY_MS = 1500
const DISK_FULL = 507

/** What was heard on the way, in seconds from the beginning; trouble : why it does not reach the server just now. */
export type Told = { clippedS: readonly number[]; puffsS: readonly number[]; trouble: string | null }
export type SongAsk = { rateHz: number; channels: number; arrangementId: string; settings: Record<string, unknown> }

/** A song on its way to the server, a second at a time; a block that cannot be sent waits and is sent again. */
export class Song {
  #waiting: Float32Array<ArrayBuffer>[] = []
  #block: Float32Array<ArrayBuffer>
  #filled = 0
  #keptFrames = 0
  #told: Told = { clippedS: [], puffsS: [], trouble: null }
  #isOver = false
  readonly #sending: Promise<void>

  constructor(
    readonly id: string,
    private readonly channels: number,
    rateHz: number,
    private readonly tell: (told: Told) => void,
  ) {
    this.#block = new Float32Array(Math.round(rateHz * BLOCK_S) * channels)
    this.#sending = this.#send()
  }

  static async begin(roomId: string, ask: SongAsk, tell: (told: Told) => void): Promise<Song> {
    const { rateHz, channels, arrangementId, settings } = ask
    const { id } = unwrap(
      await api.POST('/api/rooms/{room_id}/songs', {
        params: { path: { room_id: roomId } },
        body: { rate_hz: rateHz, channels, arrangement_id: arrangementId, settings },
      }),
    )
    return new Song(id, channels, rateHz, tell)
  }

  /** A block of samples by channel, as it came. */
  add(block: readonly Float32Array[]) {
    if (this.#isOver) return
    const frames = block[0]?.length ?? 0
    for (let i = 0; i < frames; i += 1) {
      for (let c = 0; c < this.channels; c += 1) this.#block[this.#filled + c] = (block[c] ?? block[0]!)[i]!
      this.#filled += this.channels
      if (this.#filled === this.#block.length) this.#close()
    }
  }

  /** Files it as a take. Throws what the server said; what was sung is kept there, and can be filed later. */
  async end(): Promise<Reading> {
    this.#close()
    this.#isOver = true
    await this.#sending
    return fileSong(this.id)
  }

  async drop() {
    this.#waiting = []
    this.#isOver = true
    await this.#sending
    await dropSong(this.id)
  }

  #close() {
    if (this.#filled) this.#waiting.push(this.#block.slice(0, this.#filled))
    this.#filled = 0
  }

  #tell(part: Partial<Told>) {
    this.#told = { ...this.#told, ...part }
    this.tell(this.#told)
  }

  async #send() {
    while (!this.#isOver || this.#waiting.length) {
      const block = this.#waiting[0]
      if (!block) {
        await pause(100)
        continue
      }
      try {
        const heard = await this.#post(block)
        this.#waiting.shift()
        this.#keptFrames = heard.frames
        this.#tell({
          clippedS: [...this.#told.clippedS, ...heard.clipped_s],
          puffsS: [...this.#told.puffsS, ...heard.puffs_s],
          trouble: null,
        })
      } catch (error) {
        // what is refused would be refused again, and a full disk takes nothing more: what is there can be filed
        if (error instanceof Refused && (error.status < 500 || error.status === DISK_FULL)) {
          this.#waiting = []
          this.#isOver = true
          this.#tell({ trouble: `${error.reason} ${error.cure}` })
        } else {
          this.#tell({ trouble: 'Keen Quiet is not answering. Go on: it is sent again.' })
          await pause(RETRY_MS)
        }
      }
    }
  }

  #post(block: Float32Array<ArrayBuffer>) {
    const body = new FormData()
    body.set('file', new Blob([block]), 'block.f32')
    body.set('from_frame', String(this.#keptFrames))
    return sent<Schemas['SongHeard']>(`/api/songs/${this.id}/sound`, body)
  }
}

export const fileSong = async (id: string) =>
  unwrap(await api.POST('/api/songs/{song_id}/end', { params: { path: { song_id: id } } }))
export const dropSong = async (id: string) => {
  await api.DELETE('/api/songs/{song_id}', { params: { path: { song_id: id } } })
}

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))
