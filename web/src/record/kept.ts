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

const STORE = 'recordings'

function opened(): Promise<IDBDatabase> {
  return new Promise((done, fail) => {
    const asked = indexedDB.open('keen-quiet', 1)
    asked.onupgradeneeded = () => asked.result.createObjectStore(STORE, { keyPath: 'id' })
    asked.onsuccess = () => done(asked.result)
    asked.onerror = () => fail(asked.error ?? new Error('The browser keeps nothing.'))
  })
}

async function inStore<T>(mode: IDBTransactionMode, act: (store: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  const database = await opened()
  try {
    return await new Promise<T>((done, fail) => {
      const asked = act(database.transaction(STORE, mode).objectStore(STORE))
      asked.onsuccess = () => done(asked.result)
      asked.onerror = () => fail(asked.error ?? new Error('The browser keeps nothing.'))
    })
  } finally {
    database.close()
  }
}

/** Private windows and full disks refuse to keep; the recording is then on the page only. */
const quietly = <T>(work: Promise<T>, otherwise: T) => work.catch(() => otherwise)

export const keep = (recording: Kept) =>
  quietly(
    inStore('readwrite', (store) => store.put(recording)).then(() => true),
    false,
  )
export const letGo = (id: string) =>
  quietly(
    inStore<undefined>('readwrite', (store) => store.delete(id)),
    undefined,
  )
export const keptFor = (roomId: string) =>
  quietly(
    inStore<Kept[]>('readonly', (store) => store.getAll()).then((all) => all.filter((k) => k.roomId === roomId)),
    [],
  )
