// @vitest-environment jsdom
import { cleanup, screen } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { LedgerEntry } from '../../api/client'
import { aRoom, inRoom, Refusal, served } from '../../testing/served'
import { LedgerSide } from './ledger'

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})
let room: ReturnType<typeof aRoom>
beforeEach(() => (room = aRoom()))

const entry = (more: Partial<LedgerEntry>): LedgerEntry =>
  ({
    id: 1,
    at: '2026-05-04T10:00:00+00:00',
    kind: 'room',
    title: 'Taped out',
    detail: {},
    proof: null,
    ...more,
  }) as never
const row = (more: object = {}) => ({
  mark: 'bounce',
  predicted: 9,
  plus_minus: 1,
  measured: 8.2,
  measured_plus_minus: 0.5,
  measured_before: 4,
  within: true,
  simulated: false,
  since: null,
  ...more,
})
const opened = (entries: unknown) => {
  served({ 'GET /api/catalogue': { edits: {} }, [`GET /api/rooms/${room.id}/ledger`]: entries })
  inRoom(room, <LedgerSide />)
}

describe('the ledger', () => {
  it('of a room in which no move was done tells what there is', async () => {
    opened([entry({})])
    expect(await screen.findByText('Taped out')).toBeTruthy()
    expect(screen.queryByTestId('proof')).toBeNull()
  })
  it('sets predicted beside measured, with the verdict in words', async () => {
    opened([
      entry({ kind: 'move', title: 'Sing closer', proof: [row(), row({ mark: 'boom', within: false })] as never }),
    ])
    const table = await screen.findByTestId('proof')
    expect(screen.getByText('Done: Sing closer')).toBeTruthy()
    const [first, second] = [...table.querySelectorAll('tbody tr')].map((r) => r.textContent)
    expect(first).toMatch(/Bounce dB4.09.0 ±1.08.2 ±0.5/)
    expect(first).toContain('agrees')
    expect(second).toContain('differs')
  })
  it('says what else differed, and what was simulated', async () => {
    opened([
      entry({
        kind: 'move',
        proof: [row({ since: 'the carpet', simulated: true }), row({ since: 'the carpet' })] as never,
      }),
    ])
    const caption = (await screen.findByTestId('proof')).querySelector('caption')!.textContent
    expect(caption).toBe(
      'Measured by the practice rig (simulated). When it was measured, something else differed too: the carpet.',
    )
  })
  it('says how to prove what is not proved', async () => {
    opened([entry({ kind: 'move', proof: [row({ measured: null })] as never })])
    expect(await screen.findByText(/Not proved yet: take a sweep/)).toBeTruthy()
  })
  it('keeps no silence about a failure', async () => {
    opened(new Refusal(500, { field: 'server', reason: 'It broke.', cure: 'Tell us.' }))
    expect((await screen.findByRole('alert')).textContent).toContain('It broke.')
  })
})
