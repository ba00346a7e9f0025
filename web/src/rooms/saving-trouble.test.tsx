// @vitest-environment jsdom
import { cleanup, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'

const room = vi.hoisted(() => ({
  saving: { state: 'saved' } as object,
  keepMine: vi.fn(),
  takeTheirs: vi.fn(),
  flush: vi.fn(),
}))
vi.mock('../state/room', () => ({ useRoom: () => room }))
import { SavingTrouble } from './saving-trouble'

afterEach(cleanup)

it('says nothing while all is well', () => {
  room.saving = { state: 'pending' }
  expect(render(<SavingTrouble />).container.textContent).toBe('')
})

it('says what is not saved, that it is kept, and tries again when told', async () => {
  room.saving = { state: 'failed', title: 'Keen Quiet is not answering.', cure: 'Is it running?' }
  room.flush.mockRejectedValue(new TypeError('Failed to fetch'))
  render(<SavingTrouble />)
  expect(screen.getByText(/^Not saved: Keen Quiet is not answering/)).toBeTruthy()
  expect(screen.getByText(/kept in this browser/)).toBeTruthy()
  await userEvent.click(screen.getByRole('button', { name: 'Save again' }))
  expect(room.flush).toHaveBeenCalledOnce()
})

it('asks which of two versions should stand', async () => {
  room.saving = { state: 'conflict', newest: 3 }
  render(<SavingTrouble />)
  await userEvent.click(screen.getByRole('button', { name: 'Keep what I see here' }))
  await userEvent.click(screen.getByRole('button', { name: /Take the other/ }))
  expect([room.keepMine, room.takeTheirs].map((act) => act.mock.calls.length)).toEqual([1, 1])
})
