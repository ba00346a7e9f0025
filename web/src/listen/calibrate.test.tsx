// @vitest-environment jsdom
import { cleanup, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { aReading, aRoom, inRoom, Refusal, served } from '../testing/served'
import { CalibrateSheet } from './calibrate'

vi.stubGlobal('ResizeObserver', class { observe() {} unobserve() {} disconnect() {} }) // prettier-ignore
afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

const chain = { device: 'Desk interface', channel: '1', gain: 'two o’clock' }
let room: ReturnType<typeof aRoom>
let server: ReturnType<typeof served>
const opened = (settings: object = chain, readings = [] as unknown[]) => {
  room = aRoom()
  server = served({
    'GET /api/catalogue': { edits: {} },
    'GET /api/calibrations': [],
    [`GET /api/rooms/${room.id}/readings`]: readings,
    'POST /api/calibrations': { id: 'c', full_scale_db: 112.4, plus_minus_db: 2, reread: 1 },
  })
  const reading = aReading({ id: 'silence', kind: 'tone', form: 'tone', settings: settings as never })
  return inRoom(room, <CalibrateSheet reading={reading} onClose={() => undefined} />)
}
beforeEach(() => vi.restoreAllMocks())

it('by a meter sends what it showed, and says full scale with its uncertainty', async () => {
  opened()
  const field = await screen.findByLabelText(/The meter showed/)
  await userEvent.clear(field)
  await userEvent.type(field, '38.5')
  await userEvent.click(screen.getByRole('button', { name: 'Calibrate by it' }))
  expect(await screen.findByText('Full scale is 112.4 dB ± 2.0 dB.')).toBeTruthy()
  expect(screen.getByText('1 silence was read anew.')).toBeTruthy()
  expect(server.of('POST', '/api/calibrations')[0]!.body).toEqual({
    reading_id: 'silence',
    method: 'meter',
    level_db: 38.5,
  })
})

it('tells a refusal in the server’s words', async () => {
  opened()
  server.routes['POST /api/calibrations'] = new Refusal(422, {
    field: 'level_db',
    reason: 'It clipped.',
    cure: 'Again.',
  })
  await userEvent.click(await screen.findByRole('button', { name: 'Calibrate by it' }))
  expect((await screen.findByRole('alert')).textContent).toContain('It clipped.Again.')
})

it('is not offered for a chain whose gain nobody said', async () => {
  opened({ device: 'Desk interface' })
  expect(await screen.findByText('It is not known how the gain was set.')).toBeTruthy()
  expect(screen.queryByRole('button', { name: 'Calibrate by it' })).toBeNull()
})

it('by voice takes a real take through the same chain only', async () => {
  const take = { kind: 'take', form: 'take' as const, settings: chain as never }
  opened(chain, [
    aReading({ ...take, id: 'other-gain', settings: { ...chain, gain: 'noon' } as never }),
    aReading({ ...take, id: 'rig', simulated: true }),
    aReading({ ...take, id: 'mine' }),
  ])
  await userEvent.click(await screen.findByRole('radio', { name: /Your voice/ }))
  await userEvent.click(await screen.findByRole('button', { name: 'Calibrate roughly' }))
  await waitFor(() => expect(server.of('POST', '/api/calibrations')).toHaveLength(1))
  expect(server.of('POST', '/api/calibrations')[0]!.body).toEqual({
    reading_id: 'mine',
    method: 'voice',
    level_db: null,
  })
})
