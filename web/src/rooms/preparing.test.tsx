// @vitest-environment jsdom
import { useQuery } from '@tanstack/react-query'
import { cleanup, screen, waitFor } from '@testing-library/react'
import { afterEach, expect, it, vi } from 'vitest'
import { roomQueries } from '../api/queries'
import { served, shown } from '../testing/served'
import { Preparing } from './preparing'

afterEach(() => {
  cleanup()
  vi.restoreAllMocks()
  vi.useRealTimers()
})

const going = (progress: number) => ({
  status: 'ok',
  preparing: { id: 'j', what: 'Recording', progress, state: 'running' },
})
const Readings = () => <p data-testid="count">{useQuery(roomQueries.readings('r')).data?.length ?? '-'}</p>

it('tells what is still being recorded, shows each reading as it comes, and then is gone', async () => {
  vi.useFakeTimers({ shouldAdvanceTime: true })
  const server = served({ 'GET /api/health': going(0), 'GET /api/rooms/r/readings': [] })
  shown(
    <>
      <Preparing />
      <Readings />
    </>,
  )
  expect((await screen.findByRole('status')).textContent).toContain('Recording: 0 %')
  server.routes['GET /api/health'] = going(0.5)
  server.routes['GET /api/rooms/r/readings'] = [{}]
  await vi.advanceTimersByTimeAsync(1100)
  await waitFor(() => expect(screen.getByTestId('count').textContent).toBe('1'))
  expect(screen.getByRole('status').textContent).toContain('50 %')
  server.routes['GET /api/health'] = { status: 'ok', preparing: null }
  server.routes['GET /api/rooms/r/readings'] = [{}, {}]
  await vi.advanceTimersByTimeAsync(1100)
  await waitFor(() => expect(screen.getByTestId('count').textContent).toBe('2'))
  expect(screen.queryByRole('status')).toBeNull()
  const asked = server.of('GET', '/api/health').length
  await vi.advanceTimersByTimeAsync(5000)
  expect(server.of('GET', '/api/health')).toHaveLength(asked) // nothing is asked for ever
})
