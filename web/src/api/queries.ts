import { $api, api, type Reading, refusal, type RoomDoc, type Schemas, unwrap } from './client'

/** How an address names a room. */
export const ofRoom = (room_id: string) => ({ params: { path: { room_id } } })
/** How an address names a reading, or two. */
export const ofReading = (reading_id: string) => ({ params: { path: { reading_id } } })
export const ofBoth = (reading_id: string, other_id: string) => ({ params: { path: { reading_id, other_id } } })

const PREPARING_MS = 1000

/** How many rooms or readings are asked for at once. */
export const PAGE = 200

/** What several parts of the page ask; whatever one part asks alone stands there. */
export const roomQueries = {
  preparing: () =>
    $api.queryOptions(
      'get',
      '/api/health',
      {},
      {
        refetchInterval: (query) => (query.state.data?.preparing ? PREPARING_MS : false),
      },
    ),
  list: () => $api.queryOptions('get', '/api/rooms', { params: { query: { most: PAGE } } }),
  room: (id: string) => $api.queryOptions('get', '/api/rooms/{room_id}', ofRoom(id)),
  readings: (id: string) =>
    $api.queryOptions('get', '/api/rooms/{room_id}/readings', {
      params: { path: { room_id: id }, query: { most: PAGE } },
    }),
  binnedReadings: (id: string) =>
    $api.queryOptions('get', '/api/rooms/{room_id}/readings', {
      params: { path: { room_id: id }, query: { binned: true, most: PAGE } },
    }),
  measured: (id: string) => $api.queryOptions('get', '/api/rooms/{room_id}/marks', ofRoom(id)),
  ledger: (id: string) => $api.queryOptions('get', '/api/rooms/{room_id}/ledger', ofRoom(id)),
  watches: (id: string) => $api.queryOptions('get', '/api/rooms/{room_id}/watches', ofRoom(id)),
  reading: (id: string) => $api.queryOptions('get', '/api/readings/{reading_id}', ofReading(id)),
  catalogue: () => $api.queryOptions('get', '/api/catalogue'),
}

/** A reading by the practice rig; given up, it is not filed. */
export const rigReading = async (roomId: string, body: Schemas['RigAsk'], signal: AbortSignal) =>
  unwrap(await api.POST('/api/rooms/{room_id}/readings/rig', { ...ofRoom(roomId), body, signal }))

/** A drawing as a file: SVG to print, DXF to take into a drawing program. */
export const drawing = async (document: RoomDoc, arrangementId: string, view: string, kind: 'svg' | 'dxf') =>
  unwrap(
    await api.POST('/api/drawing', {
      params: { query: { view, kind } },
      body: { document, arrangement_id: arrangementId },
      parseAs: 'text',
    }),
  )

/** The demo's rooms put beside one's own; the room to open. */
export const tryDemo = async () => unwrap(await api.POST('/api/demo')).id

/** A note as typed: its pitch and its name. */
export const readNote = async (text: string) => unwrap(await api.GET('/api/note', { params: { query: { text } } }))

/** A typed length in metres; the server reads it, so that page and command line agree. */
export async function readLength(text: string, field: string, units: 'metric' | 'imperial'): Promise<number> {
  return unwrap(await api.GET('/api/length', { params: { query: { text, field, units } } })).metres
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

/** How loud a backing track is in a take. */
export async function bleedIn(readingId: string, file: File): Promise<Schemas['BleedAnswer']> {
  const body = new FormData()
  body.set('file', file)
  return sent<Schemas['BleedAnswer']>(`/api/readings/${readingId}/bleed`, body)
}

/** How late and how loud a take comes out of the headphones, by a recording of one cup at the microphone. */
export async function inThePhones(readingId: string, file: File): Promise<Schemas['LatencyAnswer']> {
  const body = new FormData()
  body.set('file', file)
  return sent<Schemas['LatencyAnswer']>(`/api/readings/${readingId}/in-the-phones`, body)
}

/** Tags of a reading: song and section, a series' step, one's own line. */
export const tagReading = (readingId: string, tags: string[]) =>
  api.PATCH('/api/readings/{reading_id}', { ...ofReading(readingId), body: { tags } })

/** A form sent, and its answer. */
export async function sent<T>(address: string, body: FormData, headers: Record<string, string> = {}): Promise<T> {
  const response = await fetch(address, { method: 'POST', body, headers })
  const answer: unknown = await response.json().catch(() => undefined)
  if (!response.ok) throw refusal(response.status, answer)
  return answer as T
}

/** Rooms after so many others. */
export const roomsAfter = async (count: number) =>
  unwrap(await api.GET('/api/rooms', { params: { query: { after: count, most: PAGE } } }))

/** Readings of a room before the one with this number. */
export const readingsBefore = async (roomId: string, sequence: number) =>
  unwrap(
    await api.GET('/api/rooms/{room_id}/readings', {
      params: { path: { room_id: roomId }, query: { before: sequence, most: PAGE } },
    }),
  )
