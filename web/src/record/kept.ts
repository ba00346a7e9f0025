import { openDB, type DBSchema } from 'idb'
import type { Held, Shelf } from './held'

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
  /** Blocks of watches that the server does not have yet. */
  blocks: { key: [string, number]; value: Held }
}

const opened = () =>
  openDB<Recordings>('keen-quiet', 2, {
    upgrade: (database, former) => {
      if (former < 1) database.createObjectStore('recordings', { keyPath: 'id' })
      database.createObjectStore('blocks', { keyPath: ['watchId', 'fromMs'] })
    },
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

const allOf = (watchId: string) => IDBKeyRange.bound([watchId, 0], [watchId, Infinity])

/** Blocks on this device's disk; each call opens anew, for a database that was taken away comes back. */
export const blocksOnDisk: Shelf = {
  put: async (block) => void (await (await opened()).put('blocks', block)),
  first: async (watchId) => {
    const cursor = await (await opened()).transaction('blocks').store.openCursor(allOf(watchId))
    return cursor?.value
  },
  drop: async ({ watchId, fromMs }) => (await opened()).delete('blocks', [watchId, fromMs]),
  count: async (watchId) => (await opened()).count('blocks', allOf(watchId)),
}
