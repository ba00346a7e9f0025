import type { Held } from '../record/held'
import { api, type Schemas, unwrap } from './client'
import { ofRoom, sent } from './queries'

/** A watch begun, fed, ended, set aside. */
export const watches = {
  begin: async (roomId: string, way: 'browser' | 'rig', device: string) =>
    unwrap(await api.POST('/api/rooms/{room_id}/watches', { ...ofRoom(roomId), body: { way, device } })),
  takeOver: async (id: string, device: string) =>
    unwrap(
      await api.POST('/api/watches/{watch_id}/take-over', {
        params: { path: { watch_id: id } },
        body: { device, from_ms: Date.now() },
      }),
    ),
  stop: async (id: string, why: 'asked' | 'disk' | 'microphone' | 'closed') =>
    unwrap(await api.POST('/api/watches/{watch_id}/stop', { params: { path: { watch_id: id } }, body: { why } })),
  count: async (id: string, counts: boolean) =>
    unwrap(await api.PATCH('/api/watches/{watch_id}', { params: { path: { watch_id: id } }, body: { counts } })),
  remove: (id: string) => api.DELETE('/api/watches/{watch_id}', { params: { path: { watch_id: id } } }),
  /** A block of a practice night: made by the rig, kept as any other. */
  practice: async (roomId: string, id: string, fromMs: number, offsetMin: number, seconds: number, device: string) => {
    const made = unwrap(
      await api.GET('/api/rooms/{room_id}/practice-night', {
        params: { path: { room_id: roomId }, query: { from_ms: fromMs, offset_min: offsetMin, seconds } },
      }),
    )
    return unwrap(
      await api.POST('/api/watches/{watch_id}/levels', {
        params: { path: { watch_id: id } },
        body: { from_ms: fromMs, offset_min: offsetMin, rows: made.rows, device },
      }),
    )
  },
  sound: (block: Held, device: string) => {
    const body = new FormData()
    body.set('file', new Blob([block.pcm]), 'block.pcm')
    body.set('from_ms', String(block.fromMs))
    body.set('offset_min', String(block.offsetMin))
    body.set('rate', String(block.rateHz))
    body.set('device', device)
    return sent<Schemas['BlockKept']>(`/api/watches/${block.watchId}/sound`, body)
  },
  bring: (roomId: string, file: File, unit: string, offsetMin: number) => {
    const body = new FormData()
    body.set('file', file)
    body.set('unit', unit)
    body.set('offset_min', String(offsetMin))
    return sent<Schemas['WatchSummary']>(`/api/rooms/${roomId}/watches/import`, body)
  },
}
