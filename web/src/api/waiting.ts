import { useSyncExternalStore } from 'react'
import { Refused, refusal } from './refused'
import type { components } from './schema'

type Job = components['schemas']['JobAnswer']

const LOOK_AFTER_MS = 250

/** What the page waits for just now, by the address that was asked. */
const going = new Map<string, Job>()
const listeners = new Set<() => void>()
const tell = (address: string, job: Job | null) => {
  if (job) going.set(address, job)
  else going.delete(address)
  for (const listener of listeners) listener()
}
const listen = (listener: () => void) => {
  listeners.add(listener)
  return () => void listeners.delete(listener)
}

/** The background work that an answer waits for; null where none does. */
export const useWork = (address: string): Job | null => useSyncExternalStore(listen, () => going.get(address) ?? null)

export const stopJob = (id: string) => fetch(`/api/jobs/${id}`, { method: 'DELETE' })

/**
 * Sends a request. What takes long is answered with a job (202): it is waited for, and the answer fetched from where it
 * will be, or asked for again. Given up, the job is stopped.
 */
export async function patient(request: Request): Promise<Response> {
  request.headers.set('Prefer', 'respond-async')
  // what must outlive the page is sent as it is: a copy would make a stream of its body, which a closing page drops
  const again = request.keepalive ? null : request.clone()
  const answer = await fetch(request)
  if (answer.status !== 202 || !again) return answer
  const { pending } = (await answer.json()) as { pending: Job }
  await ended(pending, new URL(request.url).pathname, request.signal)
  const at = answer.headers.get('location')
  return at ? fetch(at, { signal: request.signal }) : patient(again)
}

async function ended(job: Job, address: string, signal: AbortSignal): Promise<void> {
  const stop = () => void stopJob(job.id)
  signal.addEventListener('abort', stop)
  try {
    let now = job
    while (now.state === 'running' || now.state === 'waiting') {
      tell(address, now)
      await new Promise((done) => setTimeout(done, LOOK_AFTER_MS))
      signal.throwIfAborted()
      const found = await fetch(`/api/jobs/${job.id}`, { signal })
      const said: unknown = await found.json().catch(() => undefined)
      if (!found.ok) throw refusal(found.status, said)
      now = said as Job
    }
    if (now.error) throw new Refused(422, now.error.field, now.error.reason, now.error.cure)
    if (now.state === 'cancelled')
      throw new Refused(409, 'work', 'Working this out was stopped.', 'Change something, or ask again.')
  } finally {
    signal.removeEventListener('abort', stop)
    tell(address, null)
  }
}
