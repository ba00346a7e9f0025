import { expect, it } from 'vitest'
import type { LedgerEntry } from '../../api/client'
import { flagsOf, measuredOf } from './lanes'

const entry = (at: string, measured?: Record<string, { value: number }>): LedgerEntry =>
  ({
    id: 1,
    at,
    kind: 'reading',
    title: 'Sweep',
    detail: measured ? { measured } : {},
    reading_id: null,
    move_id: null,
    proof: null,
  }) as never

it('the lanes take what readings measured, oldest first, and nothing from entries without figures', () => {
  const points = measuredOf([
    entry('2026-11-26T12:00:00Z', { bounce: { value: 8.4 } }),
    entry('2026-11-26T11:30:00Z'),
    entry('2026-11-26T11:00:00Z', { bounce: { value: 4.8 }, boom: { value: 0.78 } }),
  ])
  expect(points.map((p) => [p.mark, p.value])).toEqual([
    ['bounce', 4.8],
    ['boom', 0.78],
    ['bounce', 8.4],
  ])
})

it('flags never lie over each other, have their titles where there is room, and the newest come first', () => {
  const many = Array.from({ length: 60 }, (_, i) => ({ at: 130 + i * 9, letters: 30 }))
  const flags = flagsOf(many, 700)
  expect(flags.at(-1)).not.toBeNull()
  expect(flags[0]).toBeNull()
  const there = flags.flatMap((f) => (f ? [f] : []))
  there.slice(1).forEach((f, i) => expect(there[i]!.x + there[i]!.width).toBeLessThanOrEqual(f.x - 5.9))
  const [one, two] = flagsOf(
    [
      { at: 100, letters: 20 },
      { at: 400, letters: 20 },
    ],
    700,
  )
  expect([one!.width, two!.width].every((width) => width > 100)).toBe(true)
})
