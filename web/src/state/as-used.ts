import type { Arrangement, RoomDoc } from '../api/client'

/** The room as an arrangement uses it: what it opens, draws and moves, done. For drawing only. */
export function asUsed(room: RoomDoc, { opened, moved }: Arrangement): RoomDoc {
  if (opened.length === 0 && moved.length === 0) return room
  const state = (what: string) => opened.find((o) => o.what === what)?.state
  return {
    ...room,
    furnishings: room.furnishings.map((f, i) => {
      const is = state(`furnishings.${i}`)
      const stands = moved.find((m) => m.number === i)
      return {
        ...f,
        ...(is ? { open: is === 'open' } : {}),
        ...(stands ? { at: stands.at, turn_deg: stands.turn_deg } : {}),
      }
    }),
    openings: room.openings.map((o, i) => {
      const is = state(`openings.${i}`)
      return is === 'open' || is === 'ajar' || is === 'shut' ? { ...o, state: is } : o
    }),
    covers: room.covers.map((c, i) => {
      const is = state(`covers.${i}`)
      return is ? { ...c, drawn: is === 'drawn' } : c
    }),
  }
}
