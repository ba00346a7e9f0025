// @vitest-environment jsdom
import { act, cleanup, screen, waitFor } from '@testing-library/react'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import type { RoomDoc } from '../api/client'
import { aForecast, aReading, aRoom, inRoom, Refusal, served } from '../testing/served'
import { roomChanged } from '../api/cache'
import { ForecastProvider, usePredicted } from './forecast'
import { useRoom } from './room'

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
})

/** Answers given one by one, when the test says so. */
function slowly() {
  const waiting: ((value: unknown) => void)[] = []
  return { ask: () => new Promise((done) => waiting.push(done)), waiting, next: (v: unknown) => waiting.shift()!(v) }
}

let room: ReturnType<typeof aRoom>
let server: ReturnType<typeof served>
let answers: ReturnType<typeof slowly>
let act_: ReturnType<typeof useRoom>
const Told = () => {
  const { active, isFresh, trouble } = usePredicted()
  act_ = useRoom()
  return (
    <p data-testid="told">{JSON.stringify([active?.marks.bounce.value ?? null, isFresh, trouble?.title ?? null])}</p>
  )
}
const told = () => JSON.parse(screen.getByTestId('told').textContent) as unknown
beforeEach(() => {
  room = aRoom()
  answers = slowly()
  server = served({
    'GET /api/catalogue': { edits: { place: 'move the {who}' } },
    [`GET /api/rooms/${room.id}/readings`]: [],
    'POST /api/forecast': () => answers.ask(),
    [`PUT /api/rooms/${room.id}`]: ({ body }: { body: unknown }) => ({ ...room, ...(body as object), revision: 5 }),
  })
  inRoom(
    room,
    <ForecastProvider>
      <Told />
    </ForecastProvider>,
  )
})
const microphoneTo = (x: number) =>
  act(() => act_.edit({ do: 'place', who: 'microphone', at: [x, 1.5, 1.5], turn_deg: 180, tilt_deg: 0 }))
const asked = () =>
  server
    .of('POST', '/api/forecast')
    .map((a) => (a.body as { document: RoomDoc }).document.arrangements[0]!.microphone.at[0])

it('asks one question at a time, and after it the newest only', async () => {
  await waitFor(() => expect(answers.waiting).toHaveLength(1))
  for (const x of [1.6, 1.7, 1.8]) microphoneTo(x)
  expect(asked()).toEqual([1.5])
  answers.next(aForecast(6))
  await waitFor(() => expect(asked()).toEqual([1.5, 1.8]))
  expect(told()).toEqual([6, false, null]) // what is shown speaks of a moment ago, and says so
  answers.next(aForecast(7))
  await waitFor(() => expect(told()).toEqual([7, true, null]))
})

it('says why there is none, and forgets the trouble when there is one again', async () => {
  await waitFor(() => expect(answers.waiting).toHaveLength(1))
  answers.next(new Refusal(422, { field: 'shape', reason: 'The walls cross.', cure: 'Move a corner.' }))
  await waitFor(() => expect(told()).toEqual([null, false, 'The walls cross.']))
  microphoneTo(1.9)
  await waitFor(() => expect(answers.waiting).toHaveLength(1))
  answers.next(aForecast(8))
  await waitFor(() => expect(told()).toEqual([8, true, null]))
})

it('asks anew when a reading came or counts no more, since the marks say what was measured', async () => {
  await waitFor(() => expect(answers.waiting).toHaveLength(1))
  answers.next(aForecast(6))
  await waitFor(() => expect(told()).toEqual([6, true, null]))
  server.routes[`GET /api/rooms/${room.id}/readings`] = [aReading()]
  await act(() => roomChanged(room.id))
  await waitFor(() => expect(asked()).toHaveLength(2))
  expect(told()).toEqual([6, false, null])
  answers.next(aForecast(5))
  await waitFor(() => expect(told()).toEqual([5, true, null]))
})
