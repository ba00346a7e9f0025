import { expect, it } from 'vitest'
import type { LedgerEntry } from '../../api/client'
import { measuredOf } from './lanes'

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
