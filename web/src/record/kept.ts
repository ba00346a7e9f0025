import { openDB, type DBSchema } from 'idb'

/** Recordings that are not filed yet, kept in the browser so that neither a reload nor a full disk loses them. */
export type Kept = {
  id: string
  roomId: string
  kind: string
  arrangementId: string
  takenAt: string
  settings: Record<string, unknown>
  wav: Blob
}
interface Recordings extends DBSchema {
  recordings: { key: string; value: Kept }
}

const opened = () =>
  openDB<Recordings>('keen-quiet', 1, {
    upgrade: (database) => void database.createObjectStore('recordings', { keyPath: 'id' }),
  })

/** Private windows and full disks refuse to keep; the recording is then on the page only. */
const quietly = <T>(work: Promise<T>, otherwise: T) => work.catch(() => otherwise)

export const keep = (recording: Kept) =>
  quietly(
    opened().then(async (database) => Boolean(await database.put('recordings', recording))),
    false,
  )
export const letGo = (id: string) =>
  quietly(
    opened().then((database) => database.delete('recordings', id)),
    undefined,
  )
export const keptFor = (roomId: string) =>
  quietly(
    opened().then(async (database) => (await database.getAll('recordings')).filter((k) => k.roomId === roomId)),
    [],
  )
