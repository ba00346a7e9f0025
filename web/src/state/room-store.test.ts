import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Refused, type RoomDoc } from '../api/client'
import type { Draft, Drafts } from './drafts'
import { type Port, RoomStore } from './room-store'

const doc = (name: string) => ({ name }) as RoomDoc
const named = (name: string) => (now: RoomDoc) => ({ ...now, name })

/** A server that keeps one room, refuses old revisions, and can be down, slow, or lose its answers. */
function server(name = 'first') {
  const kept = { revision: 1, document: doc(name), past: [] as { document: RoomDoc; label: string }[] }
  const state = { isDown: false, losesAnswer: false, wait: null as Promise<void> | null }
  const room = () => ({ id: 'r', revision: kept.revision, document: kept.document })
  const port: Port = {
    put: async (revision, document) => {
      await state.wait
      if (state.isDown) throw new TypeError('Failed to fetch')
      if (revision !== kept.revision) throw new Refused(409, 'revision', 'changed', 'choose', kept.revision)
      Object.assign(kept, { revision: revision + 1, document })
      if (state.losesAnswer) throw new TypeError('Failed to fetch')
      return room()
    },
    history: async () => ({ past: kept.past, future: [] }),
    get: () => (state.isDown ? Promise.reject(new TypeError('Failed to fetch')) : Promise.resolve(room())),
    onSaved: () => undefined,
  }
  return { kept, state, port, room }
}

function memory(): Drafts & { all: Map<string, Draft> } {
  const all = new Map<string, Draft>()
  return {
    all,
    read: (id) => all.get(id) ?? null,
    write: (id, draft) => Boolean(all.set(id, draft)),
    drop: (id) => void all.delete(id),
  }
}

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

const opened = (at = server(), drafts = memory()) => ({ at, drafts, store: new RoomStore(at.room(), at.port, drafts) })
const later = (ms: number) => vi.advanceTimersByTimeAsync(ms)

describe('undo', () => {
  it('goes on after a reload, before and behind what was changed meanwhile', async () => {
    const { at, store } = opened()
    at.kept.past = [{ document: doc('older'), label: 'the name' }]
    store.change('name', named('a')) // sooner than the server told
    await store.restore()
    store.undo()
    expect([store.snapshot().history.present.name, store.snapshot().history.past.at(-1)?.label]).toEqual([
      'first',
      'the name',
    ])
    store.undo()
    await later(1000)
    expect(at.kept.document.name).toBe('older')
  })
})

describe('a change', () => {
  it('is sent a moment later, once, and its draft is then dropped', async () => {
    const { at, drafts, store } = opened()
    store.change('name', named('a'))
    store.change('name', named('b'))
    expect([store.snapshot().saving.state, drafts.all.get('r')?.document.name]).toEqual(['pending', 'b'])
    await later(1000)
    expect([at.kept.document.name, at.kept.revision, store.snapshot().saving.state]).toEqual(['b', 2, 'saved'])
    expect(drafts.all.size).toBe(0)
  })
  it('that is taken back in time is never sent', async () => {
    const { at, store } = opened()
    store.change('name', named('a'))
    store.undo()
    await later(1000)
    expect([at.kept.revision, store.snapshot().saving.state]).toEqual([1, 'saved'])
  })
  it('made while a slow server still saves the one before is sent after it', async () => {
    const { at, store } = opened()
    let answer: () => void = () => undefined
    at.state.wait = new Promise((done) => (answer = done))
    store.change('name', named('a'))
    await later(500)
    store.change('name', named('b'))
    answer()
    await later(1000)
    expect([at.kept.document.name, at.kept.revision]).toEqual(['b', 3])
  })
  it('is sent again and again while the server is down, and says so meanwhile', async () => {
    const { at, drafts, store } = opened()
    at.state.isDown = true
    store.change('name', named('a'))
    await later(8000)
    expect([store.snapshot().saving.state, drafts.all.get('r')?.document.name]).toEqual(['failed', 'a'])
    at.state.isDown = false
    await later(16_000)
    expect([at.kept.document.name, store.snapshot().saving.state]).toEqual(['a', 'saved'])
  })
  it('whose confirmation was lost is not taken for another window’s', async () => {
    const { at, store } = opened()
    at.state.losesAnswer = true
    store.change('name', named('a'))
    await later(500)
    at.state.losesAnswer = false
    await later(2000)
    expect([store.snapshot().saving.state, store.revision]).toEqual(['saved', 2])
  })
})

describe('a change that the server refuses', () => {
  const refusing = () => {
    const { at, drafts, store } = opened()
    const { put } = at.port
    at.port.put = (revision, document, label, last) =>
      document.name.startsWith('bad')
        ? Promise.reject(new Refused(422, 'name', 'the bed is in a wall.', 'Move it.'))
        : put(revision, document, label, last)
    return { at, drafts, store }
  }
  it('is taken back and told; what came before it is saved', async () => {
    const { at, drafts, store } = refusing()
    store.change('name', named('good'))
    store.change('move the bed', named('bad'))
    await later(1500)
    const { history, saving } = store.snapshot()
    expect([history.present.name, at.kept.document.name, drafts.all.size]).toEqual(['good', 'good', 0])
    expect(saving).toMatchObject({ state: 'taken-back', what: 'move the bed', cure: 'Move it.' })
    store.change('name', named('better'))
    await later(1000)
    expect([at.kept.document.name, store.snapshot().saving.state]).toEqual(['better', 'saved'])
  })
  it('is no success for who waits for it', async () => {
    const { store } = refusing()
    store.change('move the bed', named('bad'))
    await expect(store.flush()).rejects.toThrow()
  })
})

describe('flush', () => {
  it('tells the revision that stands', async () => {
    const { store } = opened()
    store.change('name', named('a'))
    await expect(store.flush()).resolves.toBe(2)
  })
  it('never counts a failed save as saved', async () => {
    const { at, store } = opened()
    at.state.isDown = true
    store.change('name', named('a'))
    await expect(store.flush()).rejects.toThrow('Failed to fetch')
    at.kept.revision = 5 // another window was here
    at.state.isDown = false
    await expect(store.flush()).rejects.toThrow('changed')
  })
})

describe('a draft that was left behind', () => {
  it('by a closed tab is taken up and sent', async () => {
    const { at, drafts, store } = opened()
    store.change('name', named('typed'))
    const again = new RoomStore(at.room(), at.port, drafts) // the first never came to its timer
    expect(again.snapshot().history.present.name).toBe('typed')
    await later(1000)
    expect(at.kept.document.name).toBe('typed')
  })
  it('is asked about when the room went on without it, with neither version lost', async () => {
    const { at, drafts } = opened()
    drafts.write('r', { revision: 0, document: doc('mine') })
    const store = new RoomStore(at.room(), at.port, drafts)
    expect([store.snapshot().saving.state, store.snapshot().history.present.name]).toEqual(['conflict', 'mine'])
    await later(1000)
    expect(at.kept.document.name).toBe('first')
    await store.keepMine()
    expect(at.kept.document.name).toBe('mine')
    store.undo()
    expect(store.snapshot().history.present.name).toBe('first')
  })
  it('that the server has after all is dropped', () => {
    const { at, drafts } = opened()
    drafts.write('r', { revision: 0, document: doc('first') })
    expect(new RoomStore(at.room(), at.port, drafts).snapshot().saving.state).toBe('saved')
    expect(drafts.all.size).toBe(0)
  })
})

it('leaving sends what is not confirmed once more, and warns only when nothing could be kept', async () => {
  const { at, store } = opened()
  store.change('name', named('a'))
  expect(store.wouldLose).toBe(false)
  store.rescue()
  await later(0)
  expect(at.kept.document.name).toBe('a')
  const full = { ...memory(), write: () => false }
  const bare = new RoomStore(at.room(), at.port, full)
  bare.change('name', named('b'))
  expect(bare.wouldLose).toBe(true)
})
