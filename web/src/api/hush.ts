import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { api, refusal, type RoomDoc, type Schemas, unwrap } from './client'
import { sent } from './queries'

const WORKED_OUT = { placeholderData: keepPreviousData, staleTime: Infinity, gcTime: 60_000, retry: false } as const
const WATCHED_MS = 2000

export type HushAnswer = Schemas['HushAnswer']
export type HoursAnswer = Schemas['HoursAnswer']
export type NoiseDoc = Schemas['NoiseDoc']
export type WatchSummary = Schemas['WatchSummary']
export type BlockKept = Schemas['BlockKept']

/** What is asked about noise: keys and fetchers together. */
export const hushQueries = {
  hush: (roomId: string, document: RoomDoc, arrangementId: string) =>
    queryOptions({
      queryKey: ['hush', document, arrangementId],
      queryFn: async ({ signal }) =>
        unwrap<HushAnswer>(
          await api.POST('/api/hush', { body: { document, arrangement_id: arrangementId, room_id: roomId }, signal }),
        ),
      ...WORKED_OUT,
    }),
  hours: (roomId: string, document: RoomDoc, arrangementId: string, watched: string) =>
    queryOptions({
      queryKey: ['hours', roomId, document, arrangementId, watched],
      queryFn: async ({ signal }) =>
        unwrap<HoursAnswer>(
          await api.POST('/api/rooms/{room_id}/hours', {
            params: { path: { room_id: roomId } },
            body: { document, arrangement_id: arrangementId },
            signal,
          }),
        ),
      ...WORKED_OUT,
    }),
  watches: (roomId: string) =>
    queryOptions({
      queryKey: ['room', roomId, 'watches'],
      queryFn: async () =>
        unwrap<WatchSummary[]>(
          await api.GET('/api/rooms/{room_id}/watches', { params: { path: { room_id: roomId } } }),
        ),
    }),
  watch: (id: string, going: boolean) =>
    queryOptions({
      queryKey: ['watch', id],
      queryFn: async () =>
        unwrap<Schemas['WatchAnswer']>(
          await api.GET('/api/watches/{watch_id}', { params: { path: { watch_id: id } } }),
        ),
      placeholderData: keepPreviousData,
      refetchInterval: going ? WATCHED_MS : false,
    }),
  humTree: () =>
    queryOptions({
      queryKey: ['hum-tree'],
      queryFn: async () => unwrap<Schemas['HumTree']>(await api.GET('/api/hum-tree')),
      staleTime: Infinity,
    }),
  hum: (before: string, after: string) =>
    queryOptions({
      queryKey: ['hum', before, after],
      queryFn: async () =>
        unwrap<Schemas['HumAnswer']>(await api.GET('/api/readings/{reading_id}/hum/{other_id}', pair(before, after))),
      staleTime: Infinity,
      retry: false,
    }),
  splice: (first: string, second: string) =>
    queryOptions({
      queryKey: ['splice', first, second],
      queryFn: async () =>
        unwrap<Schemas['SpliceAnswer']>(
          await api.GET('/api/readings/{reading_id}/splice/{other_id}', pair(first, second)),
        ),
      staleTime: Infinity,
      retry: false,
    }),
  roomTone: (id: string) =>
    queryOptions({
      queryKey: ['room-tone', id],
      queryFn: async () =>
        unwrap<Schemas['RoomToneAnswer']>(
          await api.GET('/api/readings/{reading_id}/room-tone', { params: { path: { reading_id: id } } }),
        ),
      staleTime: Infinity,
      retry: false,
    }),
}

const pair = (reading: string, other: string) => ({ params: { path: { reading_id: reading, other_id: other } } })

export const gainsOf = async (low: string, high: string, gainDb: number) =>
  unwrap<Schemas['GainsAnswer']>(
    await api.GET('/api/readings/{reading_id}/gains/{other_id}', {
      params: { path: { reading_id: low, other_id: high }, query: { gain_db: gainDb } },
    }),
  )

export const houseRound = async (
  roomId: string,
  asked: { all_on: string; without: Record<string, string>; again: string | null },
) =>
  unwrap<Schemas['RoundAnswer']>(
    await api.POST('/api/rooms/{room_id}/house-round', { params: { path: { room_id: roomId } }, body: asked }),
  )

/** A noise with the levels that a silence heard. */
export const notedFrom = async (
  roomId: string,
  asked: {
    document: RoomDoc
    arrangement_id: string
    reading_id: string
    finding: number | null
    noise: NoiseDoc
  },
) =>
  unwrap<Schemas['NotedAnswer']>(
    await api.POST('/api/rooms/{room_id}/noise-from-silence', { params: { path: { room_id: roomId } }, body: asked }),
  )

export const watches = {
  begin: async (roomId: string, way: 'browser' | 'rig') =>
    unwrap<WatchSummary>(
      await api.POST('/api/rooms/{room_id}/watches', { params: { path: { room_id: roomId } }, body: { way } }),
    ),
  stop: async (id: string, why: 'asked' | 'disk' | 'microphone' | 'closed') =>
    unwrap<WatchSummary>(
      await api.POST('/api/watches/{watch_id}/stop', { params: { path: { watch_id: id } }, body: { why } }),
    ),
  count: async (id: string, counts: boolean) =>
    unwrap<WatchSummary>(
      await api.PATCH('/api/watches/{watch_id}', { params: { path: { watch_id: id } }, body: { counts } }),
    ),
  remove: async (id: string) => {
    const { error, response } = await api.DELETE('/api/watches/{watch_id}', { params: { path: { watch_id: id } } })
    if (!response.ok) throw refusal(response.status, error)
  },
  /** A block of a practice night: made by the rig, kept as any other. */
  practice: async (roomId: string, id: string, fromMs: number, offsetMin: number, seconds: number) => {
    const made = unwrap<Schemas['PracticeBlock']>(
      await api.GET('/api/rooms/{room_id}/practice-night', {
        params: { path: { room_id: roomId }, query: { from_ms: fromMs, offset_min: offsetMin, seconds } },
      }),
    )
    return unwrap<BlockKept>(
      await api.POST('/api/watches/{watch_id}/levels', {
        params: { path: { watch_id: id } },
        body: { from_ms: fromMs, offset_min: offsetMin, rows: made.rows },
      }),
    )
  },
  sound: (id: string, pcm: Int16Array<ArrayBuffer>, fromMs: number, offsetMin: number, rate: number) => {
    const body = new FormData()
    body.set('file', new Blob([pcm]), 'block.pcm')
    body.set('from_ms', String(fromMs))
    body.set('offset_min', String(offsetMin))
    body.set('rate', String(Math.round(rate)))
    return sent<BlockKept>(`/api/watches/${id}/sound`, body)
  },
  bring: (roomId: string, file: File, unit: string, offsetMin: number) => {
    const body = new FormData()
    body.set('file', file)
    body.set('unit', unit)
    body.set('offset_min', String(offsetMin))
    return sent<WatchSummary>(`/api/rooms/${roomId}/watches/import`, body)
  },
}
