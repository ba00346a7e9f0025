import { useQueryClient } from '@tanstack/react-query'
import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from 'react'
import { api, type Arrangement, inWords, Refused, type RoomDoc, type Schemas, unwrap } from '../api/client'
import { changed, type History, redone, started, undone } from './history'

export const STANDING = 0
export const TRYING = 'what-if'
const SAVE_AFTER_MS = 450

export type Saving =
  | { state: 'saved' }
  | { state: 'pending' }
  | { state: 'saving' }
  | { state: 'failed'; title: string; cure: string }
  | { state: 'conflict'; newest: number }

type RoomState = {
  id: string
  document: RoomDoc
  standing: Arrangement
  active: Arrangement
  trying: Arrangement | null
  saving: Saving
  undoLabel: string | null
  redoLabel: string | null
  /** A change worth an undo step; saved soon after. */
  change: (label: string, update: (document: RoomDoc) => RoomDoc) => void
  /** Redraws while something is dragged; `change` makes it last. */
  preview: (document: RoomDoc | null) => void
  undo: () => void
  redo: () => void
  /** Saves at once and tells the revision that then stands. */
  flush: () => Promise<number>
  adopt: (room: Schemas['RoomPublic']) => void
  keepMine: () => Promise<void>
  takeTheirs: () => Promise<void>
}

const Context = createContext<RoomState | null>(null)

export function useRoom(): RoomState {
  const value = useContext(Context)
  if (!value) throw new Error('useRoom must be used inside <RoomProvider>')
  return value
}

export const arrangementsOf = (document: RoomDoc) => (document.arrangements ?? []) as Arrangement[]

/** The document with one arrangement replaced by id. */
export function withArrangement(document: RoomDoc, arrangement: Arrangement): RoomDoc {
  return { ...document, arrangements: arrangementsOf(document).map((a) => (a.id === arrangement.id ? arrangement : a)) }
}

export function RoomProvider({ room, children }: { room: Schemas['RoomPublic']; children: ReactNode }) {
  const [history, setHistory] = useState<History<RoomDoc>>(() => started(room.document))
  const [previewed, setPreview] = useState<RoomDoc | null>(null)
  const [saving, setSaving] = useState<Saving>({ state: 'saved' })
  const revision = useRef(room.revision)
  const saved = useRef<RoomDoc>(room.document)
  const latest = useRef<RoomDoc>(room.document)
  const inFlight = useRef<Promise<void> | null>(null)
  const client = useQueryClient()
  latest.current = history.present

  const saveNow = useCallback(async (): Promise<void> => {
    while (inFlight.current) await inFlight.current
    const document = latest.current
    if (document === saved.current) return
    setSaving({ state: 'saving' })
    const work = (async () => {
      try {
        const answer = unwrap<Schemas['RoomPublic']>(
          await api.PUT('/api/rooms/{room_id}', {
            params: { path: { room_id: room.id } },
            body: { revision: revision.current, document: document as never },
          }),
        )
        revision.current = answer.revision
        saved.current = document
        setSaving({ state: latest.current === document ? 'saved' : 'pending' })
        void client.invalidateQueries({ queryKey: ['room', room.id, 'measured'] })
        void client.invalidateQueries({ queryKey: ['rooms'] })
      } catch (error) {
        if (error instanceof Refused && error.status === 409)
          setSaving({ state: 'conflict', newest: error.newest ?? revision.current + 1 })
        else setSaving({ state: 'failed', ...inWords(error) })
      }
    })()
    inFlight.current = work
    await work
    inFlight.current = null
  }, [client, room.id])

  const conflicted = saving.state === 'conflict'
  useEffect(() => {
    if (conflicted) return
    if (history.present === saved.current && !inFlight.current) {
      setSaving((now) => (now.state === 'pending' ? { state: 'saved' } : now)) // undone before it was saved
      return
    }
    setSaving((now) => (now.state === 'saving' ? now : { state: 'pending' }))
    const timer = setTimeout(() => void saveNow(), SAVE_AFTER_MS)
    return () => clearTimeout(timer)
  }, [history.present, saveNow, conflicted])

  useEffect(() => {
    const warn = (event: BeforeUnloadEvent) => {
      if (latest.current !== saved.current) event.preventDefault()
    }
    addEventListener('beforeunload', warn)
    return () => removeEventListener('beforeunload', warn)
  }, [])

  const adopt = useCallback(
    (next: Schemas['RoomPublic']) => {
      revision.current = next.revision
      saved.current = next.document
      setHistory((now) => changed(now, next.document, 'last step'))
      setPreview(null)
      setSaving({ state: 'saved' })
      client.setQueryData(['room', room.id], next)
    },
    [client, room.id],
  )

  // What is open here goes back into the cache, so that leaving and coming back shows it.
  useEffect(
    () => () => {
      client.removeQueries({ queryKey: ['room', room.id], exact: true })
    },
    [client, room.id],
  )

  const theirs = useCallback(
    async () =>
      unwrap<Schemas['RoomPublic']>(await api.GET('/api/rooms/{room_id}', { params: { path: { room_id: room.id } } })),
    [room.id],
  )

  const value = useMemo<RoomState>(() => {
    const document = previewed ?? history.present
    const all = arrangementsOf(document)
    const trying = all.find((a) => a.id === TRYING) ?? null
    const standing = all[STANDING]!
    return {
      id: room.id,
      document,
      standing,
      active: trying ?? standing,
      trying,
      saving,
      undoLabel: history.past.at(-1)?.label ?? null,
      redoLabel: history.future[0]?.label ?? null,
      change: (label, update) => {
        setPreview(null)
        setHistory((now) => changed(now, update(now.present), label))
      },
      preview: setPreview,
      undo: () => setHistory(undone),
      redo: () => setHistory(redone),
      flush: async () => {
        await saveNow()
        return revision.current
      },
      adopt,
      keepMine: async () => {
        const other = await theirs()
        revision.current = other.revision
        // the other version becomes the last step: undo brings it back
        setHistory((now) => ({
          ...now,
          past: [...now.past, { value: other.document, label: 'the other window’s version' }],
        }))
        setSaving({ state: 'pending' })
        saved.current = {} as RoomDoc
        await saveNow()
      },
      takeTheirs: async () => adopt(await theirs()),
    }
  }, [adopt, history, previewed, room.id, saveNow, saving, theirs])

  return <Context value={value}>{children}</Context>
}
