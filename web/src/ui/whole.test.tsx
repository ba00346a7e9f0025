// @vitest-environment jsdom
import { cleanup, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, expect, it, vi } from 'vitest'
import { useBack } from './use-back'
import { Whole } from './whole'

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

const state = { breaks: true }
const Part = () => {
  if (state.breaks) throw new Error('strange')
  return <p>the part</p>
}
const page = (again: string) => (
  <>
    <p>the rest</p>
    <Whole what="This reading" again={again}>
      <Part />
    </Whole>
  </>
)

it('a part that fails leaves the rest, and is tried again when asked or when another is chosen', async () => {
  vi.spyOn(console, 'error').mockImplementation(() => undefined)
  state.breaks = true
  const { rerender } = render(page('one'))
  expect(screen.getByText('the rest')).toBeTruthy()
  expect(screen.getByText('This reading cannot be shown.')).toBeTruthy()
  state.breaks = false
  await userEvent.click(screen.getByRole('button', { name: 'Try again' }))
  expect(screen.getByText('the part')).toBeTruthy()
  state.breaks = true
  rerender(page('one'))
  expect(screen.getByText('This reading cannot be shown.')).toBeTruthy()
  state.breaks = false
  rerender(page('two'))
  expect(screen.getByText('the part')).toBeTruthy()
})

function Waiting({ waits, goOn }: { waits: boolean; goOn: () => void }) {
  useBack(waits, goOn)
  return null
}

it('what waits for the server goes on once it answers, and asks no more then', async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true })
  const server = vi.fn(() => Promise.reject<Response>(new TypeError('Failed to fetch')))
  vi.stubGlobal('fetch', server)
  const goOn = vi.fn()
  const { rerender } = render(<Waiting waits={false} goOn={goOn} />)
  await vi.advanceTimersByTimeAsync(10_000)
  expect(server).not.toHaveBeenCalled()
  rerender(<Waiting waits goOn={goOn} />)
  await vi.advanceTimersByTimeAsync(10_000)
  expect(server).toHaveBeenCalledTimes(3)
  expect(goOn).not.toHaveBeenCalled()
  server.mockResolvedValue(Response.json({}))
  dispatchEvent(new Event('online'))
  await waitFor(() => expect(goOn).toHaveBeenCalledOnce())
  rerender(<Waiting waits={false} goOn={goOn} />)
  await vi.advanceTimersByTimeAsync(10_000)
  expect(goOn).toHaveBeenCalledOnce()
})
