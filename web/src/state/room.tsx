import { useQuery } from '@tanstack/react-query'
import { createContext, type ReactNode, useContext, useEffect, useMemo, useState, useSyncExternalStore } from 'react'
import type { Arrangement, Edit, RoomDoc, Schemas } from '../api/client'
import { cache } from '../api/cache'
import { roomQueries } from '../api/queries'
import { wordsOf } from './edits'
import type { RoomStore, Saving } from './room-store'
import { storeFor } from './stores'
import { edited, STANDING, TRYING, withoutTrying, withTrying } from './trying'

export type { Saving } from './room-store'

type RoomState = {
  id: string
  document: RoomDoc
  standing: Arrangement
  active: Arrangement
  trying: Arrangement | null
  saving: Saving
  undoLabel: string | null
  redoLabel: string | null
  /** A change of the room, worth an undo step; saved soon after. */
  change: (label: string, update: (document: RoomDoc) => RoomDoc) => void
  /** Edits of the arrangement in sight, as one undo step; while a move is tried they become part of it. */
  edit: (...edits: Edit[]) => void
  /** The document that edits would lead to, to be drawn while something is dragged; `edit` makes it last. */
  drag: (...edits: Edit[]) => void
  /** Shows a move beside the standing arrangement. */
  tryOut: (move: { kind: string; title: string; edits: readonly Edit[] }) => void
  putBack: () => void
  preview: (document: RoomDoc | null) => void
  undo: () => void
  redo: () => void
  /** Saves at once and tells the revision that then stands; throws when it could not be saved. */
  flush: () => Promise<number>
  adopt: (room: Schemas['RoomAnswer']) => void
  keepMine: () => Promise<void>
  takeTheirs: () => Promise<void>
}

const Context = createContext<RoomState | null>(null)

export function useRoom(): RoomState {
  const value = useContext(Context)
  if (!value) throw new Error('useRoom must be used inside <RoomProvider>')
  return value
}

export function RoomProvider({ room, children }: { room: Schemas['RoomAnswer']; children: ReactNode }) {
  const [store] = useState(() => storeFor(room))
  const { history, previewed, saving } = useSyncExternalStore(store.subscribe, store.snapshot)
  const { data: catalogue } = useQuery(roomQueries.catalogue())

  useEffect(
    () => () => {
      void store.flush().catch(() => undefined) // it is kept, and tried again
      cache.removeQueries({ ...roomQueries.room(room.id), exact: true })
    },
    [room.id, store],
  )

  const words = catalogue?.edits
  const value = useMemo<RoomState>(() => {
    const document = previewed ?? history.present
    const trying = document.arrangements.find((a) => a.id === TRYING) ?? null
    const standing = document.arrangements[STANDING]!
    return {
      id: room.id,
      document,
      standing,
      active: trying ?? standing,
      trying,
      saving,
      undoLabel: history.past.at(-1)?.label ?? null,
      redoLabel: history.future[0]?.label ?? null,
      ...actsOf(store, words ?? {}),
    }
  }, [history, previewed, room.id, saving, store, words])

  return <Context value={value}>{children}</Context>
}

const actsOf = (store: RoomStore, words: Record<string, string>) => ({
  change: (label: string, update: (document: RoomDoc) => RoomDoc) => store.change(label, update),
  edit: (...edits: Edit[]) => store.change(wordsOf(edits, words), (now) => edited(now, edits)),
  drag: (...edits: Edit[]) => store.preview(edited(store.snapshot().history.present, edits)),
  tryOut: (move: { kind: string; title: string; edits: readonly Edit[] }) =>
    store.change(`try “${move.title}”`, (now) => withTrying(now, move)),
  putBack: () => store.change('stop trying', withoutTrying),
  preview: (document: RoomDoc | null) => store.preview(document),
  undo: () => store.undo(),
  redo: () => store.redo(),
  flush: () => store.flush(),
  adopt: (room: Schemas['RoomAnswer']) => store.adopt(room),
  keepMine: () => store.keepMine(),
  takeTheirs: () => store.takeTheirs(),
})
