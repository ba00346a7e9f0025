import { describe, expect, it } from 'vitest'
import { changed, redone, started, undone } from './history'

describe('history', () => {
  it('goes back and forth and forgets the future on a new change', () => {
    const two = changed(changed(started('a'), 'b', 'to b'), 'c', 'to c')
    expect(undone(two).present).toBe('b')
    expect(redone(undone(two)).present).toBe('c')
    const other = changed(undone(two), 'd', 'to d')
    expect(redone(other)).toBe(other)
    expect(undone(undone(other)).present).toBe('a')
  })
  it('is the same object when nothing changed', () => {
    const one = started('a')
    expect(changed(one, 'a', 'same')).toBe(one)
    expect(undone(one)).toBe(one)
  })
  it('keeps a hundred steps', () => {
    let long = started(0)
    for (let i = 1; i <= 150; i += 1) long = changed(long, i, String(i))
    expect(long.past).toHaveLength(100)
  })
})
