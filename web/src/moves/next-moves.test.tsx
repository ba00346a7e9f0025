// @vitest-environment jsdom
import { cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { RoomDoc } from '../api/client'
import { ForecastProvider } from '../state/forecast'
import { useRoom } from '../state/room'
import { aForecast, aMove, aRoom, inRoom, Refusal, served } from '../testing/served'
import { NextMoves } from './next-moves'

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

const dear = aMove({
  title: 'Hang a panel',
  kind: 'reflection',
  cost: 55,
  minutes: 40,
  reversible: false,
  cautions: ['Find out what is behind the plaster before you drill.'],
  effects: { bounce: { change: -1.5, plus_minus: 1, unit: 'dB' } },
  edits: [],
})

let room: ReturnType<typeof aRoom>
let server: ReturnType<typeof served>
beforeEach(() => {
  room = aRoom()
  server = served({
    'GET /api/catalogue': { edits: { place: 'move the {who}' } },
    [`GET /api/rooms/${room.id}/readings`]: [],
    'POST /api/forecast': () => aForecast(),
    'POST /api/moves': { moves: [aMove(), dear], short: [] },
    [`PUT /api/rooms/${room.id}`]: ({ body }: { body: unknown }) => {
      const { revision, document } = body as { revision: number; document: RoomDoc }
      return { ...room, revision: revision + 1, document }
    },
  })
})

const Told = () => {
  const { active, trying, standing } = useRoom()
  return <output>{JSON.stringify([trying?.name ?? null, active.microphone.at[0], standing.microphone.at[0]])}</output>
}
const page = () =>
  inRoom(
    room,
    <ForecastProvider>
      <NextMoves />
      <Told />
    </ForecastProvider>,
  )
const told = () => JSON.parse(screen.getAllByRole('status').find((e) => e.tagName === 'OUTPUT')!.textContent) as unknown
const rows = async () => (await screen.findAllByRole('listitem')).map((row) => row.textContent)

describe('the list', () => {
  it('tells effects larger than their uncertainty, with sign and unit, and leaves the others out', async () => {
    page()
    const [first, second] = await rows()
    expect(first).toContain('Bounce +5.2 dB ±1.0')
    expect(first).not.toContain('Boom')
    expect(first).toContain('free · 2 min')
    expect(second).toContain('Bounce −1.5 dB ±1.0')
    expect(second).toContain('about €55 · 40 min, leaves holes')
  })
  it('keeps cautions where the decision is made', async () => {
    page()
    await rows()
    expect(screen.queryByText(/behind the plaster/)).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Why, and take care' }))
    expect(screen.getByText(/behind the plaster/)).toBeTruthy()
  })
  it('asks for the standing arrangement, without what is being tried', async () => {
    page()
    await rows()
    await userEvent.click(screen.getAllByRole('button', { name: 'Try' })[0]!)
    await screen.findByText('Trying')
    const asked = server.of('POST', '/api/moves')
    expect(asked).toHaveLength(1)
    expect((asked[0]!.body as { document: RoomDoc }).document.arrangements).toHaveLength(1)
  })
  it('that is empty says what to do instead', async () => {
    server.routes['POST /api/moves'] = { moves: [], short: ['Even with all of this the noise stays 32 dB too loud.'] }
    page()
    expect(await screen.findByText(/Take a reading, then record/)).toBeTruthy()
    expect(screen.getByText(/stays 32 dB too loud/)).toBeTruthy()
  })
  it('that cannot be made says why', async () => {
    server.routes['POST /api/moves'] = new Refusal(422, { field: 'room', reason: 'It leaks.', cure: 'Close it.' })
    page()
    expect((await screen.findByRole('alert')).textContent).toContain('It leaks.Close it.')
  })
})

describe('a move', () => {
  it('that is tried moves the drawing and leaves what stands', async () => {
    page()
    await rows()
    await userEvent.click(screen.getAllByRole('button', { name: 'Try' })[0]!)
    await waitFor(() => expect(told()).toEqual(['Sing closer', 1.25, 1.5]))
    await userEvent.click(screen.getByRole('button', { name: 'Put it back' }))
    await waitFor(() => expect(told()).toEqual([null, 1.5, 1.5]))
  })
  it('that is done is saved first, then filed with the revision that was saved', async () => {
    page()
    await rows()
    const after = { ...room.document, arrangements: [{ ...room.document.arrangements[0]!, name: 'Closer' }] }
    server.routes[`POST /api/rooms/${room.id}/moves/done`] = { ...room, revision: 6, document: after }
    await userEvent.click(screen.getAllByRole('button', { name: 'Try' })[0]!)
    await userEvent.click(await screen.findByRole('button', { name: 'I have done it' }))
    await waitFor(() => expect(told()).toEqual([null, 1.5, 1.5]))
    const order = server.asked.filter((a) => a.method === 'PUT' || a.path.endsWith('/done'))
    expect(order.map((a) => a.method)).toEqual(['PUT', 'POST'])
    expect(order[1]!.body).toMatchObject({ revision: 5, kind: 'distance', title: 'Sing closer' })
  })
  it('is not filed while the room could not be saved', async () => {
    server.routes[`PUT /api/rooms/${room.id}`] = new Refusal(507, {
      field: 'disk',
      reason: 'Full.',
      cure: 'Make space.',
    })
    page()
    await rows()
    await userEvent.click(screen.getAllByRole('button', { name: 'Try' })[0]!)
    await userEvent.click(await screen.findByRole('button', { name: 'I have done it' }))
    const said = await within(screen.getByTestId('next-moves')).findByRole('alert')
    expect(said.textContent).toContain('Make space.')
    expect(server.asked.some((a) => a.path.endsWith('/done'))).toBe(false)
    expect(told()).toEqual(['Sing closer', 1.25, 1.5])
  })
})
