import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import {
  type Answer,
  api,
  type Catalogue,
  type Edit,
  type Forecast,
  type Job,
  type LedgerEntry,
  type Measured,
  type Reading,
  type ReadingSummary,
  type RoomDoc,
  type Schemas,
  Refused,
  refusal,
  unwrap,
} from './client'

/** What a plan must keep to. */
export type PlanAsked = {
  budget: number
  locked: Edit[]
  locked_cost: number
  keep_free: string[]
  reversible: boolean
  marks: string[]
}

/** Figures that follow from the document alone: the last ones stay in sight until the next are here. */
const WORKED_OUT = { placeholderData: keepPreviousData, staleTime: Infinity, gcTime: 60_000, retry: false } as const

/** Keys and fetchers live together: this file is the one place that knows both. */
/** What is worked out of a document and of what was read: asked anew when a reading comes or goes. */
export const WEIGHED = ['moves', 'distance', 'map', 'forecast-of', 'plan', 'hush', 'hours', 'schools', 'marks-sheet']

export const roomQueries = {
  preparing: () =>
    queryOptions({
      queryKey: ['preparing'],
      queryFn: async () => unwrap<Schemas['HealthAnswer']>(await api.GET('/api/health')),
      refetchInterval: (query) => (query.state.data?.preparing ? PREPARING_MS : false),
    }),
  list: () =>
    queryOptions({
      queryKey: ['rooms'],
      queryFn: async () => unwrap<Schemas['RoomSummary'][]>(await api.GET('/api/rooms')),
    }),
  room: (id: string) =>
    queryOptions({
      queryKey: ['room', id],
      queryFn: async () =>
        unwrap<Schemas['RoomAnswer']>(await api.GET('/api/rooms/{room_id}', { params: { path: { room_id: id } } })),
      staleTime: Infinity,
    }),
  binnedRooms: () =>
    queryOptions({
      queryKey: ['rooms', 'bin'],
      queryFn: async () =>
        unwrap<Schemas['RoomSummary'][]>(await api.GET('/api/rooms', { params: { query: { binned: true } } })),
    }),
  binnedReadings: (id: string) =>
    queryOptions({
      queryKey: ['room', id, 'readings', 'bin'],
      queryFn: async () =>
        unwrap<ReadingSummary[]>(
          await api.GET('/api/rooms/{room_id}/readings', {
            params: { path: { room_id: id }, query: { binned: true } },
          }),
        ),
    }),
  measured: (id: string) =>
    queryOptions({
      queryKey: ['room', id, 'measured'],
      queryFn: async () =>
        unwrap<Measured>(await api.GET('/api/rooms/{room_id}/marks', { params: { path: { room_id: id } } })),
    }),
  readings: (id: string) =>
    queryOptions({
      queryKey: ['room', id, 'readings'],
      queryFn: async () =>
        unwrap<ReadingSummary[]>(await api.GET('/api/rooms/{room_id}/readings', { params: { path: { room_id: id } } })),
    }),
  ledger: (id: string) =>
    queryOptions({
      queryKey: ['room', id, 'ledger'],
      queryFn: async () =>
        unwrap<LedgerEntry[]>(await api.GET('/api/rooms/{room_id}/ledger', { params: { path: { room_id: id } } })),
    }),
  reading: (id: string) =>
    queryOptions({
      queryKey: ['reading', id],
      queryFn: async () =>
        unwrap<Reading>(await api.GET('/api/readings/{reading_id}', { params: { path: { reading_id: id } } })),
      staleTime: Infinity,
    }),
  moves: (roomId: string, document: RoomDoc, arrangementId: string, enabled: boolean) =>
    queryOptions({
      queryKey: ['moves', document, arrangementId],
      queryFn: ({ signal }) =>
        answered<Schemas['MovesAnswer']>(
          (wait) =>
            api.POST('/api/moves', { body: { document, arrangement_id: arrangementId, room_id: roomId }, ...wait }),
          signal,
        ),
      staleTime: Infinity,
      gcTime: 60_000,
      enabled,
      retry: false,
    }),
  distance: (roomId: string, document: RoomDoc, arrangementId: string, role: string, screen: string) =>
    queryOptions({
      queryKey: ['distance', document, arrangementId, role, screen],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['DistanceAnswer']>(
          await api.POST('/api/distance', {
            body: { document, arrangement_id: arrangementId, room_id: roomId, role, screen },
            signal,
          }),
        ),
      ...WORKED_OUT,
    }),
  map: (
    roomId: string,
    document: RoomDoc,
    arrangementId: string,
    mark: string,
    heightM: number | null,
    enabled = true,
  ) =>
    queryOptions({
      queryKey: ['map', document, arrangementId, mark, heightM],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['MapAnswer']>(
          await api.POST('/api/map', {
            body: { document, arrangement_id: arrangementId, room_id: roomId, mark, height_m: heightM, step_m: 0.1 },
            signal,
          }),
        ),
      ...WORKED_OUT,
      enabled,
    }),
  aim: (document: RoomDoc, arrangementId: string) =>
    queryOptions({
      queryKey: ['aim', document, arrangementId],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['AimAnswer']>(
          await api.POST('/api/aim', { body: { document, arrangement_id: arrangementId }, signal }),
        ),
      ...WORKED_OUT,
    }),
  forecastOf: (roomId: string, document: RoomDoc, arrangementId: string, enabled = true) =>
    queryOptions({
      queryKey: ['forecast-of', document, arrangementId],
      queryFn: ({ signal }) =>
        answered<Forecast>(
          (wait) =>
            api.POST('/api/forecast', {
              body: { document, arrangement_id: arrangementId, room_id: roomId, to_hz: 300 },
              ...wait,
            }),
          signal,
        ),
      ...WORKED_OUT,
      placeholderData: undefined,
      enabled,
    }),
  plan: (roomId: string, document: RoomDoc, arrangementId: string, asked: PlanAsked, quick: boolean) =>
    queryOptions({
      queryKey: ['plan', document, arrangementId, asked, quick],
      queryFn: ({ signal }) =>
        answered<Schemas['PlanAnswer']>(
          (wait) =>
            api.POST('/api/plan', {
              body: { document, arrangement_id: arrangementId, room_id: roomId, ...asked, quick },
              ...wait,
            }),
          signal,
        ),
      staleTime: Infinity,
      gcTime: 300_000,
      retry: false,
    }),
  make: (document: RoomDoc, arrangementId: string) =>
    queryOptions({
      queryKey: ['make', document, arrangementId],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['MakingAnswer']>(
          await api.POST('/api/make', { body: { document, arrangement_id: arrangementId }, signal }),
        ),
      ...WORKED_OUT,
      placeholderData: undefined,
    }),
  treatSchools: (document: RoomDoc, arrangementId: string) =>
    queryOptions({
      queryKey: ['schools', document, arrangementId, 'treatment'],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['SchoolsAnswer']>(
          await api.POST('/api/schools', {
            body: { document, arrangement_id: arrangementId, about: 'treatment' },
            signal,
          }),
        ),
      ...WORKED_OUT,
    }),
  reach: (document: RoomDoc, arrangementId: string) =>
    queryOptions({
      queryKey: ['reach', document, arrangementId],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['ReachAnswer']>(
          await api.POST('/api/reach', { body: { document, arrangement_id: arrangementId }, signal }),
        ),
      ...WORKED_OUT,
    }),
  schools: (document: RoomDoc, arrangementId: string, roomId: string) =>
    queryOptions({
      queryKey: ['schools', document, arrangementId, roomId],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['SchoolsAnswer']>(
          await api.POST('/api/schools', {
            body: { document, arrangement_id: arrangementId, room_id: roomId },
            signal,
          }),
        ),
      ...WORKED_OUT,
    }),
  screens: (document: RoomDoc, arrangementId: string) =>
    queryOptions({
      queryKey: ['screens', document, arrangementId],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['ScreensAnswer']>(
          await api.POST('/api/screens', { body: { document, arrangement_id: arrangementId }, signal }),
        ),
      ...WORKED_OUT,
    }),
  marksSheet: (roomId: string, document: RoomDoc, arrangementId: string) =>
    queryOptions({
      queryKey: ['marks-sheet', document, arrangementId],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['MarksSheet']>(
          await api.POST('/api/marks-sheet', {
            body: { document, arrangement_id: arrangementId, room_id: roomId },
            signal,
          }),
        ),
      ...WORKED_OUT,
    }),
  listening: (document: RoomDoc, arrangementId: string, search: 'none' | 'line' | 'free') =>
    queryOptions({
      queryKey: ['listening', document, arrangementId, search],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['ListeningAnswer']>(
          await api.POST('/api/listening', {
            body: { document, arrangement_id: arrangementId, search: search !== 'none', free: search === 'free' },
            signal,
          }),
        ),
      ...WORKED_OUT,
    }),
  absorber: (spec: NonNullable<RoomDoc['surfaces'][string]['absorber']>) =>
    queryOptions({
      queryKey: ['absorber', spec],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['AbsorberAnswer']>(await api.POST('/api/absorber', { body: spec, signal })),
      placeholderData: keepPreviousData,
      staleTime: Infinity,
      retry: false,
    }),
  swell: (document: RoomDoc, arrangementId: string, plane: string, heightM: number | null, enabled: boolean) =>
    queryOptions({
      queryKey: ['swell', document, arrangementId, plane, heightM],
      queryFn: async ({ signal }) =>
        unwrap<Schemas['SwellAnswer']>(
          await api.POST('/api/swell', {
            body: { document, arrangement_id: arrangementId, plane, height_m: heightM },
            signal,
          }),
        ),
      placeholderData: keepPreviousData, // whoever draws it looks whether the plane is the right one
      staleTime: Infinity,
      gcTime: 30_000,
      retry: false,
      enabled,
    }),
  places: (project: string | null) =>
    queryOptions({
      queryKey: ['places', project],
      queryFn: ({ signal }) =>
        answered<Schemas['PlacesAnswer']>(
          (wait) => api.GET('/api/places', { params: { query: project === null ? {} : { project } }, ...wait }),
          signal,
        ),
      staleTime: 0,
    }),
  calibrations: () =>
    queryOptions({
      queryKey: ['calibrations'],
      queryFn: async () => unwrap<Schemas['CalibrationAnswer'][]>(await api.GET('/api/calibrations')),
    }),
  sameWords: (first: string, second: string) =>
    queryOptions({
      queryKey: ['same-words', first, second],
      queryFn: async () =>
        unwrap<Schemas['WordsAnswer']>(
          await api.GET('/api/readings/{reading_id}/same-words/{other_id}', {
            params: { path: { reading_id: first, other_id: second } },
          }),
        ),
      staleTime: Infinity,
      retry: false,
    }),
  putBack: (now: string, then: string) =>
    queryOptions({
      queryKey: ['put-back', now, then],
      queryFn: async () =>
        unwrap<Schemas['PutBackAnswer']>(
          await api.GET('/api/readings/{reading_id}/put-back/{other_id}', {
            params: { path: { reading_id: now, other_id: then } },
          }),
        ),
      staleTime: Infinity,
      retry: false,
    }),
  sides: (front: string, back: string, pattern: string) =>
    queryOptions({
      queryKey: ['sides', front, back, pattern],
      queryFn: async () =>
        unwrap<Schemas['SidesAnswer']>(
          await api.GET('/api/readings/{reading_id}/sides/{other_id}', {
            params: { path: { reading_id: front, other_id: back }, query: { pattern } },
          }),
        ),
      staleTime: Infinity,
      retry: false,
    }),
  catalogue: () =>
    queryOptions({
      queryKey: ['catalogue'],
      queryFn: async () => unwrap<Catalogue>(await api.GET('/api/catalogue')),
      staleTime: Infinity,
    }),
}

/** An answer or the job that works on it: waits for the job, tells how far it is, and stops it when given up. */
export async function answered<T>(
  ask: (wait: { headers: typeof ASYNC; signal: AbortSignal }) => Promise<Answer>,
  signal: AbortSignal,
  onWork: (job: Job | null) => void = () => undefined,
): Promise<T> {
  const pending = (answer: T | Pending): answer is Pending => isPending(answer)
  for (;;) {
    const answer = unwrap<T | Pending>(await ask({ headers: ASYNC, signal }))
    if (!pending(answer)) {
      onWork(null)
      return answer
    }
    refuseUnless(await ended(answer.pending, signal, onWork))
  }
}

type Pending = Schemas['Pending']
const ASYNC = { Prefer: 'respond-async' }
const isPending = (answer: unknown): answer is Pending =>
  typeof answer === 'object' && answer !== null && 'pending' in answer

/** A job that came to no result becomes a refusal. */
function refuseUnless(job: Job) {
  if (job.error) throw new Refused(422, job.error.field, job.error.reason, job.error.cure)
  if (job.state === 'cancelled')
    throw new Refused(409, 'work', 'Working this out was stopped.', 'Change something, or ask again.')
}

const LOOK_AFTER_MS = 250
const PREPARING_MS = 1000

async function ended(job: Job, signal: AbortSignal, onWork: (job: Job | null) => void): Promise<Job> {
  const stop = () => void stopJob(job.id)
  signal.addEventListener('abort', stop)
  try {
    for (let now = job; ;) {
      if (now.state !== 'running' && now.state !== 'waiting') return now
      onWork(now)
      await new Promise((done) => setTimeout(done, LOOK_AFTER_MS))
      signal.throwIfAborted()
      now = unwrap<Job>(await api.GET('/api/jobs/{job_id}', { params: { path: { job_id: job.id } }, signal }))
    }
  } finally {
    signal.removeEventListener('abort', stop)
    onWork(null)
  }
}

/** The forecast of an arrangement; in a kept room its marks say what was measured there. */
export const forecast = (
  document: RoomDoc,
  arrangementId: string,
  roomId: string | null,
  signal: AbortSignal,
  onWork: (job: Job | null) => void = () => undefined,
) =>
  answered<Forecast>(
    (wait) =>
      api.POST('/api/forecast', {
        body: { document, arrangement_id: arrangementId, room_id: roomId, to_hz: 300 },
        ...wait,
      }),
    signal,
    onWork,
  )

/** A reading by the practice rig. */
export async function rigReading(
  roomId: string,
  ask: {
    kind: string
    arrangementId: string
    gainDb: number
    faults: readonly string[]
    silenced?: readonly string[]
    seconds?: number
  },
  signal: AbortSignal,
  onWork: (job: Job | null) => void = () => undefined,
): Promise<Reading> {
  const answer = unwrap<Reading | Pending>(
    await api.POST('/api/rooms/{room_id}/readings/rig', {
      params: { path: { room_id: roomId } },
      headers: ASYNC,
      body: {
        kind: ask.kind,
        arrangement_id: ask.arrangementId,
        gain_db: ask.gainDb,
        faults: [...ask.faults],
        silenced: [...(ask.silenced ?? [])],
        seconds: ask.seconds ?? null,
      },
      signal,
    }),
  )
  if (!isPending(answer)) return answer
  refuseUnless(await ended(answer.pending, signal, onWork))
  return unwrap<Reading>(
    await api.GET('/api/jobs/{job_id}/reading', { params: { path: { job_id: answer.pending.id } }, signal }),
  )
}

export const stopJob = (id: string) => api.DELETE('/api/jobs/{job_id}', { params: { path: { job_id: id } } })

/** The plan that fits the tape's readings best. */
export const squared = async (document: RoomDoc) =>
  unwrap<Schemas['SquaredAnswer']>(await api.POST('/api/square', { body: { document } }))

export const fitted = (roomId: string, signal: AbortSignal, onWork?: (job: Job | null) => void) =>
  answered<Schemas['FitAnswer']>(
    (wait) => api.POST('/api/rooms/{room_id}/fit', { params: { path: { room_id: roomId } }, ...wait }),
    signal,
    onWork,
  )

/** A drawing as a file: SVG to print, DXF to take into a drawing program. */
export async function drawing(
  document: RoomDoc,
  arrangementId: string,
  view: string,
  kind: 'svg' | 'dxf',
): Promise<string> {
  const { data, error, response } = await api.POST('/api/drawing', {
    params: { query: { view, kind } },
    body: { document, arrangement_id: arrangementId, to_hz: 300 },
    parseAs: 'text',
  })
  return unwrap<string>({ data, error, response })
}

/** The marks sheet as a page to print. */
export async function marksSheetPdf(document: RoomDoc, arrangementId: string): Promise<Blob> {
  const { data, error, response } = await api.POST('/api/marks-sheet.pdf', {
    body: { document, arrangement_id: arrangementId },
    parseAs: 'blob',
  })
  return unwrap<Blob>({ data, error, response })
}

/** What to make, as pages to print or as a table. */
export async function makeFile(document: RoomDoc, arrangementId: string, kind: 'pdf' | 'csv'): Promise<Blob> {
  const asked = { body: { document, arrangement_id: arrangementId }, parseAs: 'blob' as const }
  const { data, error, response } =
    kind === 'pdf' ? await api.POST('/api/make.pdf', asked) : await api.POST('/api/make.csv', asked)
  return unwrap<Blob>({ data, error, response })
}

/** A line in several versions, one channel each; whether it brings a room of its own. */
export async function heardLine(
  document: RoomDoc,
  versions: readonly string[],
  readingId: string | null,
  signal: AbortSignal,
): Promise<{ wav: ArrayBuffer; twice: boolean }> {
  const { data, error, response } = await api.POST('/api/hear.wav', {
    body: { document, versions: [...versions], reading_id: readingId },
    parseAs: 'arrayBuffer',
    signal,
  })
  return { wav: unwrap<ArrayBuffer>({ data, error, response }), twice: response.headers.get('x-room-twice') === 'yes' }
}

/** The demo's rooms put beside one's own; the room to open. */
export const tryDemo = async () => unwrap<{ id: string }>(await api.POST('/api/demo')).id

/** A note as typed: its pitch and its name. */
export const readNote = async (text: string) =>
  unwrap<Schemas['NoteAnswer']>(await api.GET('/api/note', { params: { query: { text } } }))

/** A typed length in metres; the server reads it, so that page and command line agree. */
export async function readLength(text: string, field: string, units: 'metric' | 'imperial'): Promise<number> {
  return unwrap<{ metres: number }>(await api.GET('/api/length', { params: { query: { text, field, units } } })).metres
}

export async function uploadReading(
  roomId: string,
  file: File | Blob,
  fields: {
    kind: string
    way: 'import' | 'browser'
    arrangementId: string
    fileName: string
    settings: object
    /** The recording's own name: sent again under it, it is not filed twice. */
    key: string
    /** Noises that were off besides. */
    silenced?: readonly string[]
    /** Made elsewhere: it is judged, and settles no mark. */
    counts?: boolean
  },
): Promise<Reading> {
  const body = new FormData()
  body.set('file', file, fields.fileName)
  body.set('kind', fields.kind)
  body.set('way', fields.way)
  body.set('arrangement_id', fields.arrangementId)
  body.set('settings', JSON.stringify(fields.settings))
  if (fields.counts === false) body.set('counts', 'false')
  for (const name of fields.silenced ?? []) body.append('silenced', name)
  return sent<Reading>(`/api/rooms/${roomId}/readings`, body, { 'Idempotency-Key': fields.key })
}

export async function uploadBundle(file: File): Promise<{ id: string; name: string; readings: number }> {
  const body = new FormData()
  body.set('file', file)
  return sent('/api/bundles', body)
}

/** A chain calibrated by a recording of a calibrator. */
export async function calibrateByCalibrator(
  file: File,
  fields: { device: string; channel: string; gain: string; levelDb: number },
) {
  const body = new FormData()
  body.set('file', file)
  body.set('device', fields.device)
  body.set('channel', fields.channel)
  body.set('gain', fields.gain)
  body.set('level_db', String(fields.levelDb))
  return sent<Schemas['CalibrationAnswer']>('/api/calibrations/calibrator', body)
}

/** A form sent, and its answer. */
export async function sent<T>(address: string, body: FormData, headers: Record<string, string> = {}): Promise<T> {
  const response = await fetch(address, { method: 'POST', body, headers })
  const answer: unknown = await response.json().catch(() => undefined)
  if (!response.ok) throw refusal(response.status, answer)
  return answer as T
}
