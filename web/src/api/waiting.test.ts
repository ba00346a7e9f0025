import { afterEach, expect, it, vi } from 'vitest'
import { Refused } from './client'
import { patient } from './waiting'

afterEach(() => vi.unstubAllGlobals())

const job = (state: string, error: object | null = null) => ({ id: 'j', what: 'w', progress: 0.5, state, error })

/** A server that answers each of these in turn, and what it was asked. */
function server(...answers: readonly Response[]) {
  const asked: string[] = []
  const left = [...answers]
  vi.stubGlobal('fetch', async (to: Request | string, init?: { method?: string }) => {
    const isRequest = to instanceof Request
    const said = isRequest ? await to.text() : ''
    asked.push(
      `${isRequest ? to.method : (init?.method ?? 'GET')} ${isRequest ? new URL(to.url).pathname : to} ${said}`,
    )
    return left.shift()!
  })
  return asked
}
const pending = (headers = {}) => Response.json({ pending: job('running') }, { status: 202, headers })
const ask = (signal?: AbortSignal) =>
  patient(new Request('http://here/api/moves', { method: 'POST', body: 'this room', signal }))

it('asks again with the same words once the work is done', async () => {
  const asked = server(pending(), Response.json(job('done')), Response.json({ moves: [] }))
  expect(await (await ask()).json()).toEqual({ moves: [] })
  expect(asked).toEqual(['POST /api/moves this room', 'GET /api/jobs/j ', 'POST /api/moves this room'])
})

it('fetches what must not be asked for twice from where it is', async () => {
  const asked = server(
    pending({ location: '/api/jobs/j/reading' }),
    Response.json(job('done')),
    Response.json({ id: 1 }),
  )
  expect(await (await ask()).json()).toEqual({ id: 1 })
  expect(asked.at(-1)).toBe('GET /api/jobs/j/reading ')
})

it('tells work that was stopped, or failed, as a refusal', async () => {
  server(pending(), Response.json(job('cancelled')))
  await expect(ask()).rejects.toThrow('was stopped')
  server(pending(), Response.json(job('failed', { field: 'shape', reason: 'The walls cross.', cure: 'Move one.' })))
  await expect(ask()).rejects.toBeInstanceOf(Refused)
})

it('stops the work when it is given up', async () => {
  const given = new AbortController()
  const asked = server(pending(), Response.json(job('cancelled')))
  const waiting = ask(given.signal)
  await vi.waitFor(() => expect(asked).toHaveLength(1))
  await new Promise((done) => setTimeout(done))
  given.abort()
  await expect(waiting).rejects.toThrow()
  expect(asked).toContain('DELETE /api/jobs/j ')
})
