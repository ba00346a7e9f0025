import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
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

interface Blocks extends DBSchema {
  blocks: { key: [string, number]; value: Held }
}

// asked several times a minute all night: opened once, and anew when the browser took it away. A database of its own:
// an older page in another tab would hold up the upgrade of the one above, and with it every recording
let shared: Promise<IDBPDatabase<Blocks>> | null = null
const blocks = () => {
  const forget = () => {
    shared = null
  }
  shared ??= openDB<Blocks>('keen-quiet-watches', 1, {
    upgrade: (database) => void database.createObjectStore('blocks', { keyPath: ['watchId', 'fromMs'] }),
    terminated: forget,
  }).catch((error: unknown) => {
    forget()
    throw error
  })
  return shared
}

const allOf = (watchId: string) => IDBKeyRange.bound([watchId, 0], [watchId, Infinity])

/** Blocks of watches, on this device's disk until the server has them. */
export const blocksOnDisk: Shelf = {
  put: async (block) => void (await (await blocks()).put('blocks', block)),
  first: async (watchId) => (await (await blocks()).transaction('blocks').store.openCursor(allOf(watchId)))?.value,
  drop: async ({ watchId, fromMs }) => (await blocks()).delete('blocks', [watchId, fromMs]),
  count: async (watchId) => (await blocks()).count('blocks', allOf(watchId)),
}
