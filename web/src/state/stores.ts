import { api, type Schemas, unwrap } from '../api/client'
import { roomChanged, roomsChanged } from '../api/cache'
import { ofRoom } from '../api/queries'
import { browserDrafts } from './drafts'
import { type Port, RoomStore } from './room-store'

type Room = Schemas['RoomAnswer']
const stores = new Map<string, RoomStore>()

/** The store of a room: the one that is still at work on it, or that knows as new a version, before a fresh one. */
export function storeFor(room: Room): RoomStore {
  const known = stores.get(room.id)
  if (known && (known.isDirty || known.revision >= room.revision)) return known
  const store = new RoomStore(room, portOf(room.id), browserDrafts)
  stores.set(room.id, store)
  void store.restore()
  return store
}

const portOf = (id: string): Port => ({
  put: async (revision, document, label, last) =>
    unwrap(
      await api.PUT('/api/rooms/{room_id}', {
        ...ofRoom(id),
        body: { revision, document, label },
        keepalive: last,
      }),
    ),
  history: async (revision) =>
    unwrap(await api.GET('/api/rooms/{room_id}/history', { params: { path: { room_id: id }, query: { revision } } })),
  get: async () => unwrap(await api.GET('/api/rooms/{room_id}', ofRoom(id))),
  onSaved: () => {
    void roomsChanged()
    void roomChanged(id)
  },
})

/** Listens for the page going and the network coming back: once, when the application starts. */
export function watchPage() {
  addEventListener('pagehide', () => {
    // what is being typed counts: leaving its field is what makes it a change
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur()
    for (const store of stores.values()) store.rescue()
  })
  addEventListener('online', () => {
    for (const store of stores.values()) void store.flush().catch(() => undefined)
  })
  addEventListener('beforeunload', (event) => {
    if ([...stores.values()].some((store) => store.wouldLose)) event.preventDefault()
  })
}
