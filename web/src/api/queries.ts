import { queryOptions } from '@tanstack/react-query'
import {
  api,
  type Catalogue,
  type Forecast,
  type LedgerEntry,
  type Measured,
  type Move,
  type Reading,
  type ReadingSummary,
  type RoomDoc,
  type Schemas,
  refusal,
  unwrap,
} from './client'

/** Keys and fetchers live together: this file is the one place that knows both. */
export const roomQueries = {
  list: () =>
    queryOptions({
      queryKey: ['rooms'],
      queryFn: async () => unwrap<Schemas['RoomSummary'][]>(await api.GET('/api/rooms')),
    }),
  room: (id: string) =>
    queryOptions({
      queryKey: ['room', id],
      queryFn: async () =>
        unwrap<Schemas['RoomPublic']>(await api.GET('/api/rooms/{room_id}', { params: { path: { room_id: id } } })),
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
  moves: (document: RoomDoc, arrangementId: string, enabled: boolean) =>
    queryOptions({
      queryKey: ['moves', document, arrangementId],
      queryFn: async ({ signal }) =>
        unwrap<Move[]>(
          await api.POST('/api/moves', { body: { document, arrangement_id: arrangementId, to_hz: 300 }, signal }),
        ),
      staleTime: Infinity,
      gcTime: 60_000,
      enabled,
      retry: false,
    }),
  catalogue: () =>
    queryOptions({
      queryKey: ['catalogue'],
      queryFn: async () => unwrap<Catalogue>(await api.GET('/api/catalogue')),
      staleTime: Infinity,
    }),
}

export async function forecast(document: RoomDoc, arrangementId: string, signal: AbortSignal) {
  return unwrap<Forecast>(
    await api.POST('/api/forecast', { body: { document, arrangement_id: arrangementId, to_hz: 300 }, signal }),
  )
}

/** A typed length in metres; the server reads it, so that page and command line agree. */
export async function readLength(text: string, field: string): Promise<number> {
  return unwrap<{ metres: number }>(await api.GET('/api/length', { params: { query: { text, field } } })).metres
}

export async function uploadReading(
  roomId: string,
  file: File | Blob,
  fields: { kind: string; way: 'import' | 'browser'; arrangementId: string; fileName: string; settings: object },
): Promise<Reading> {
  const body = new FormData()
  body.set('file', file, fields.fileName)
  body.set('kind', fields.kind)
  body.set('way', fields.way)
  body.set('arrangement_id', fields.arrangementId)
  body.set('settings', JSON.stringify(fields.settings))
  return sent<Reading>(`/api/rooms/${roomId}/readings`, body)
}

export async function uploadBundle(file: File): Promise<{ id: string; name: string; readings: number }> {
  const body = new FormData()
  body.set('file', file)
  return sent('/api/bundles', body)
}

async function sent<T>(address: string, body: FormData): Promise<T> {
  const response = await fetch(address, { method: 'POST', body })
  const answer: unknown = await response.json().catch(() => undefined)
  if (!response.ok) throw refusal(response.status, answer)
  return answer as T
}
