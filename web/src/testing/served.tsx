import { QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactNode } from 'react'
import { MemoryRouter } from 'react-router-dom'
import { vi } from 'vitest'
import {
  api,
  type Arrangement,
  type Edit,
  type Forecast,
  type Move,
  type ReadingSummary,
  refusal,
  type RoomDoc,
  type Schemas,
} from '../api/client'
import { cache } from '../api/cache'
import { RoomProvider } from '../state/room'

type Asked = { method: string; path: string; body: unknown; aborted: () => boolean }
type Options = { params?: { path?: Record<string, string> }; body?: unknown; signal?: AbortSignal }
const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE'] as const
type Answering = unknown | ((asked: Asked) => unknown)

/** What an answer of the server that refuses looks like here. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly error: { field: string; reason: string; cure: string },
    readonly newest?: number,
  ) {}
}

/**
 * A server for the page under test: answers by "METHOD /path", notes what was asked, refuses what it does not know.
 * It stands in for the network alone; what the page does with it is the page's own code.
 */
export function served(routes: Record<string, Answering>) {
  const asked: Asked[] = []
  const answer = async (method: string, path: string, body: unknown, signal?: AbortSignal): Promise<Response> => {
    const one: Asked = { method, path, body, aborted: () => signal?.aborted ?? false }
    asked.push(one)
    const route = routes[`${method} ${path}`]
    const found = await (typeof route === 'function' ? route(one) : route)
    if (found instanceof Refusal)
      return Response.json({ error: found.error, newest: found.newest }, { status: found.status })
    if (found === undefined)
      return Response.json({ error: { field: 'id', reason: `no ${path} here.`, cure: 'Add it.' } }, { status: 404 })
    return Response.json(found)
  }
  for (const method of METHODS)
    vi.spyOn(api, method).mockImplementation((async (path: string, options: Options = {}) => {
      const whole = path.replace(/{(\w+)}/g, (_, name: string) => options.params?.path?.[name] ?? name)
      const response = await answer(method, whole, options.body ?? null, options.signal)
      const content = (await response.json()) as unknown
      if (!response.ok) throw refusal(response.status, content)
      return { data: content, response }
    }) as never)
  vi.stubGlobal('fetch', (path: string, init: { method?: string; body?: unknown } = {}) =>
    answer(init.method ?? 'GET', path, init.body),
  )
  cache.clear()
  cache.setDefaultOptions({ queries: { ...cache.getDefaultOptions().queries, retry: false } })
  return {
    routes,
    asked,
    of: (method: string, path: string) => asked.filter((a) => a.method === method && a.path === path),
  }
}

/** A part of the page over the served answers. */
export const shown = (part: ReactNode) =>
  render(
    <QueryClientProvider client={cache}>
      <MemoryRouter>{part}</MemoryRouter>
    </QueryClientProvider>,
  )

let count = 0
/** A room of its own for each test: the page keeps what it knows of a room by its name. */
export function aRoom(more: Partial<RoomDoc> = {}): Schemas['RoomAnswer'] & { document: RoomDoc } {
  const document = {
    name: 'Store room',
    brief: { purpose: 'dry-voice', budget: 100, currency: '€', may_drill: false, has_duvet: true },
    shape: { plan: [[0, 0], [4, 0], [4, 3], [0, 3]], ceiling: { kind: 'flat', height_m: 2.4, drops: [] } }, // prettier-ignore
    surfaces: {},
    covers: [],
    openings: [],
    furnishings: [],
    noises: [],
    arrangements: [anArrangement()],
    ...more,
  } as unknown as RoomDoc
  count += 1
  return { id: `room-${count}`, revision: 4, name: document.name, document } as never
}

export const anArrangement = (more: Partial<Arrangement> = {}): Arrangement =>
  ({
    id: 'as-is',
    name: 'As it is',
    performer: { at: [1, 1.5, 1.6], faces_deg: 0, source: 'voice-sung' },
    microphone: { at: [1.5, 1.5, 1.5], aims_deg: 180, tilt_deg: 0, pattern: 'cardioid' },
    monitors: [],
    treatments: [],
    screens: [],
    silenced: [],
    ...more,
  }) as Arrangement

/** Part of the page inside an opened room. */
export const inRoom = (room: ReturnType<typeof aRoom>, part: ReactNode) =>
  shown(<RoomProvider room={room}>{part}</RoomProvider>)

export const aMove = (more: Partial<Move> = {}): Move =>
  ({
    kind: 'distance',
    title: 'Sing closer',
    why: 'Half the way is 6 dB more of you.',
    effects: {
      bounce: { change: 5.2, plus_minus: 1, unit: 'dB' },
      boom: { change: 0.01, plus_minus: 0.1, unit: 's' },
    },
    cost: 0,
    minutes: 2,
    reversible: true,
    cautions: [],
    edits: [{ do: 'place', who: 'microphone', at: [1.25, 1.5, 1.5], turn_deg: 180, tilt_deg: 0 }] as unknown as Edit[],
    ...more,
  }) as Move

export const aReading = (more: Partial<ReadingSummary> = {}): ReadingSummary =>
  ({
    id: 'reading-1',
    kind: 'sweep',
    form: 'response',
    way: 'browser',
    taken_at: '2026-05-04T10:00:00+00:00',
    file_name: 'sweep.wav',
    counts: true,
    simulated: false,
    note: '',
    tags: [],
    mic_at: [1.5, 1.5, 1.5],
    settings: {},
    headline: { said: 'Fades in 0.31 s', t_mid_s: 0.31, c50_mid_db: 14.2, direct_over_room_db: 6.1 },
    verdict: { usable: true, word: 'good', reasons: [] },
    empty: [],
    measured: {},
    ...more,
  }) as unknown as ReadingSummary

const mark = (name: string, value: number, unit: string) => ({
  name,
  meaning: '',
  value,
  plus_minus: 1,
  unit,
  source: 'predicted',
  sentence: `${name} is ${value}.`,
  predicted: { value, plus_minus: 1 },
  measured: null,
  wanted: { low: 3, high: 20, why: 'Practice.', source: 'practice' },
})

export const aForecast = (bounce = 6): Forecast =>
  ({
    marks: {
      bounce: mark('Bounce', bounce, 'dB'),
      boom: mark('Boom', 0.4, 's'),
      hush: mark('Hush', 30, 'dB'),
      touch: mark('Touch', 3, 'dB'),
    },
  }) as unknown as Forecast
