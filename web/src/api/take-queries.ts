import { keepPreviousData, queryOptions } from '@tanstack/react-query'
import { api, type Schemas, unwrap } from './client'
import { sent } from './queries'

export type Wave = Schemas['WaveAnswer']
export type Lines = Schemas['LinesAnswer']
export type Against = Schemas['AgainstAnswer']
export type Trials = Schemas['TrialsAnswer']
export type Underneath = Schemas['UnderneathAnswer']
export type Bleed = Schemas['BleedAnswer']
export type Threshold = Schemas['StaircaseAnswer']
export type Phones = Schemas['LatencyAnswer']

const KEPT = { staleTime: Infinity, gcTime: 120_000, retry: false } as const

/** Keys and fetchers of what is asked about takes beyond a reading. */
export const takeQueries = {
  wave: (id: string, fromS: number, toS: number, points: number) =>
    queryOptions({
      queryKey: ['take', id, 'wave', fromS, toS, points],
      queryFn: async () =>
        unwrap<Wave>(
          await api.GET('/api/readings/{reading_id}/wave', {
            params: { path: { reading_id: id }, query: { from_s: fromS, to_s: toS, points } },
          }),
        ),
      ...KEPT,
    }),
  underneath: (id: string) =>
    queryOptions({
      queryKey: ['take', id, 'underneath'],
      queryFn: async () =>
        unwrap<Underneath | null>(
          await api.GET('/api/readings/{reading_id}/underneath', { params: { path: { reading_id: id } } }),
        ),
      ...KEPT,
      staleTime: 0,
    }),
  against: (id: string, lineId: string | null) =>
    queryOptions({
      queryKey: ['take', id, 'against', lineId],
      queryFn: async () =>
        unwrap<Against | null>(
          await api.GET('/api/readings/{reading_id}/against', {
            params: { path: { reading_id: id }, query: lineId ? { line_id: lineId } : {} },
          }),
        ),
      ...KEPT,
      staleTime: 0,
    }),
  beside: (id: string) =>
    queryOptions({
      queryKey: ['take', id, 'beside'],
      queryFn: async () =>
        unwrap<Schemas['BesideAnswer'][]>(
          await api.GET('/api/readings/{reading_id}/beside', { params: { path: { reading_id: id } } }),
        ),
      ...KEPT,
      staleTime: 0,
    }),
  byLine: (id: string, otherId: string) =>
    queryOptions({
      queryKey: ['take', id, 'by-line', otherId],
      queryFn: async () =>
        unwrap<Lines>(
          await api.GET('/api/readings/{reading_id}/by-line/{other_id}', {
            params: { path: { reading_id: id, other_id: otherId } },
          }),
        ),
      ...KEPT,
    }),
  threshold: (what: string, answers: string) =>
    queryOptions({
      queryKey: ['threshold', what, answers],
      queryFn: async () =>
        unwrap<Threshold>(await api.GET('/api/thresholds/{what}', { params: { path: { what }, query: { answers } } })),
      placeholderData: keepPreviousData,
      ...KEPT,
    }),
  trials: (roomId: string, series: string, arrangementId: string, revision: string) =>
    queryOptions({
      queryKey: ['room', roomId, 'trials', series, arrangementId, revision],
      queryFn: async () =>
        unwrap<Trials>(
          await api.GET('/api/rooms/{room_id}/trials/{series}', {
            params: { path: { room_id: roomId, series }, query: { arrangement_id: arrangementId } },
          }),
        ),
      ...KEPT,
    }),
}

/** How loud a backing track is in a take. */
export async function bleedIn(readingId: string, file: File): Promise<Bleed> {
  const body = new FormData()
  body.set('file', file)
  return sent<Bleed>(`/api/readings/${readingId}/bleed`, body)
}

/** How late and how loud a take comes out of the headphones, by a recording of one cup at the microphone. */
export async function inThePhones(readingId: string, file: File): Promise<Phones> {
  const body = new FormData()
  body.set('file', file)
  return sent<Phones>(`/api/readings/${readingId}/in-the-phones`, body)
}

/** Tags of a reading: song and section, a series' step, one's own line. */
export async function tagReading(readingId: string, tags: string[]): Promise<void> {
  unwrap(
    await api.PATCH('/api/readings/{reading_id}', {
      params: { path: { reading_id: readingId } },
      body: { tags },
    }),
  )
}
