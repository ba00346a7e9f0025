import { describe, expect, it } from 'vitest'
import { Refused } from '../api/client'
import { type Held, Sender, type Shelf } from './held'

/** Draws that are the same at every run. */
function drawn(seed: number) {
  let state = seed
  return () => (state = (state * 48271) % 2147483647) / 2147483647
}

function shelf(): Shelf & { kept: Held[] } {
  const kept: Held[] = []
  return {
    kept,
    put: (block) => {
      kept.push(block)
      kept.sort((a, b) => a.fromMs - b.fromMs)
      return Promise.resolve()
    },
    first: (watchId) => Promise.resolve(kept.find((b) => b.watchId === watchId)),
    drop: (block) => Promise.resolve(void kept.splice(kept.indexOf(block), 1)),
    count: () => Promise.resolve(kept.length),
  }
}

const block = (i: number, samples = 3): Held => ({
  watchId: 'w',
  fromMs: 3000 * i,
  offsetMin: 60,
  rateHz: 1,
  pcm: new Int16Array(samples),
})
const answer = { level_dba: -60, flags: [] }
const quiet = () => undefined

describe('a watch on its way', () => {
  it('survives a night of locked databases, killed servers and lost networks: each second once, in order', async () => {
    const draw = drawn(7)
    const disk = shelf()
    const heard: number[] = []
    let clockMs = 0
    let downUntilMs = 0
    let added = 0
    const end = new AbortController()
    const said = new Set<string>()
    const post = (held: Held) => {
      if (clockMs < downUntilMs) {
        const kind = Math.floor(draw() * 4)
        if (kind === 0) return Promise.reject(new TypeError('Failed to fetch'))
        const status = [503, 507, 429][kind - 1]!
        return Promise.reject(new Refused(status, 'data', 'Another program holds the data folder.', ''))
      }
      // now and then the answer is lost on its way back: the block comes again, and the server keeps it once
      if (heard.at(-1) !== held.fromMs) heard.push(held.fromMs)
      return draw() < 0.02 ? Promise.reject(new TypeError('lost')) : Promise.resolve(answer)
    }
    const sender = new Sender(
      'w',
      disk,
      post,
      ({ trouble }) => trouble && said.add(trouble.replace(/\d+ (s|min)/, 'N')),
      async (ms) => {
        const until = clockMs + ms
        for (; (added + 1) * 3000 <= until; added += 1) await sender.add(block(added))
        clockMs = until
        if (draw() < 0.02) downUntilMs = clockMs + 600_000 * draw()
        if (clockMs > 8 * 3_600_000) end.abort()
      },
    )
    await sender.run(end.signal)
    downUntilMs = 0
    while (!(await sender.drained()));
    expect(heard).toEqual(Array.from({ length: added }, (_, i) => 3000 * i))
    expect(added).toBeGreaterThan(9000)
    expect([...said]).toContain('Keen Quiet is not answering. N wait on this device and are sent later.')
  })

  it('drops a block that is refused for itself, and goes on', async () => {
    const heard: number[] = []
    const post = (held: Held) =>
      held.fromMs === 3000
        ? Promise.reject(new Refused(422, 'from_ms', 'is no time.', 'Check the clock.'))
        : Promise.resolve(answer).finally(() => heard.push(held.fromMs))
    const sender = new Sender('w', shelf(), post, quiet, () => Promise.resolve())
    for (let i = 0; i < 4; i += 1) await sender.add(block(i))
    expect(await sender.drained()).toBe(true)
    expect(heard).toEqual([0, 6000, 9000])
  })

  it('ends when another device listens by now', async () => {
    const post = () => Promise.reject(new Refused(409, 'device', 'Another device listens.', ''))
    const sender = new Sender('w', shelf(), post, quiet, () => Promise.resolve())
    await sender.add(block(0))
    await expect(sender.run(new AbortController().signal)).rejects.toThrow('Another device')
  })

  it('keeps a night on the device: whole for a while, then three seconds of every ninety', async () => {
    const disk = shelf()
    const away = () => Promise.reject(new TypeError('Failed to fetch'))
    const said: string[] = []
    const end = new AbortController()
    let turns = 0
    const sender = new Sender(
      'w',
      disk,
      away,
      ({ trouble }) => said.push(trouble ?? ''),
      () => {
        turns += 1
        if (turns > 2) end.abort()
        return Promise.resolve()
      },
    )
    // ten hours of three seconds at 48 kHz, told by their size alone
    const heavy = { byteLength: 288_000, length: 144_000 } as unknown as Int16Array<ArrayBuffer>
    for (let i = 0; i < 12_000; i += 1) await sender.add({ ...block(i), rateHz: 48_000, pcm: heavy })
    await sender.run(end.signal)
    const times = disk.kept.map((held) => held.fromMs)
    expect(times.slice(0, 300)).toEqual(Array.from({ length: 300 }, (_, i) => 3000 * i))
    expect(Math.max(...times) / 3_600_000).toBeGreaterThan(8.5)
    expect(disk.kept.length * 0.288).toBeLessThan(201)
    expect(said[0]).toContain('on this device')
  })

  it('keeps some minutes in memory where the browser keeps nothing', async () => {
    const none: Shelf = { ...shelf(), put: () => Promise.reject(new Error('QuotaExceeded')) }
    const heard: number[] = []
    const sender = new Sender(
      'w',
      none,
      (b) => Promise.resolve(answer).finally(() => heard.push(b.fromMs)),
      quiet,
      () => Promise.resolve(),
    )
    for (let i = 0; i < 70; i += 1) await sender.add(block(i))
    await sender.drained()
    expect(heard).toHaveLength(60)
    expect(heard[0]).toBe(30_000)
  })
})
