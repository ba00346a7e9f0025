import { inWords, Refused, type RoomDoc, type Schemas } from '../api/client'
import type { Drafts } from './drafts'
import { changed, type History, redone, started, undone } from './history'
import { contains } from './same'

type Room = Pick<Schemas['RoomAnswer'], 'id' | 'revision' | 'document'>
export type Saving =
  | { state: 'saved' }
  | { state: 'pending' }
  | { state: 'saving' }
  | { state: 'failed'; title: string; cure: string }
  /** The server would not have it, so it was taken back: what cannot be saved is not made. */
  | { state: 'taken-back'; title: string; cure: string; what: string }
  | { state: 'conflict'; newest: number }

/** How a room reaches the server. */
export type Port = {
  /** `last`: the page is about to go; the request must outlive it. */
  put: (revision: number, document: RoomDoc, label: string, last: boolean) => Promise<Room>
  /** What could be undone and redone when a revision stood. */
  history: (revision: number) => Promise<Schemas['HistoryAnswer']>
  get: () => Promise<Room>
  /** The server confirmed a version. */
  onSaved: () => void
}
export type Snapshot = { history: History<RoomDoc>; previewed: RoomDoc | null; saving: Saving }

/** What the document itself is refused for. */
const isRefusal = (error: unknown): error is Refused =>
  error instanceof Refused && (error.status === 422 || error.status === 413)

const SAVE_AFTER_MS = 450
const RETRY_MS = [1000, 2000, 4000, 8000, 15000] as const

/**
 * A room while it is worked on: its history, and the way of every change to the server.
 *
 * It outlives the page that shows it. Each change is kept in the browser at once, sent soon after, and sent again until
 * the server confirms it; only then is the draft dropped.
 */
export class RoomStore {
  readonly id: string
  #snapshot: Snapshot
  #saved: RoomDoc
  #revision: number
  #flying: Promise<void> | null = null
  #timer: ReturnType<typeof setTimeout> | undefined
  #failures = 0
  #trouble: unknown = null
  #takenBack = 0
  #isKept = true
  readonly #listeners = new Set<() => void>()

  constructor(
    room: Room,
    private readonly port: Port,
    private readonly drafts: Drafts,
  ) {
    this.id = room.id
    this.#saved = room.document
    this.#revision = room.revision
    this.#snapshot = { history: started(room.document), previewed: null, saving: { state: 'saved' } }
    this.#recover(room)
  }

  readonly subscribe = (tell: () => void) => {
    this.#listeners.add(tell)
    return () => void this.#listeners.delete(tell)
  }
  readonly snapshot = () => this.#snapshot

  get revision() {
    return this.#revision
  }
  get isDirty() {
    return this.#present !== this.#saved
  }
  /** Whether leaving now would lose something: a change neither confirmed nor kept in this browser. */
  get wouldLose() {
    return this.isDirty && !this.#isKept
  }

  /** A change worth an undo step; saved soon after. */
  change(label: string, update: (document: RoomDoc) => RoomDoc) {
    this.#become(changed(this.#snapshot.history, update(this.#present), label))
  }
  /** Redraws while something is dragged; `change` makes it last. */
  preview(document: RoomDoc | null) {
    this.#put({ previewed: document })
  }
  undo() {
    this.#become(undone(this.#snapshot.history))
  }
  redo() {
    this.#become(redone(this.#snapshot.history))
  }

  /** What could be undone before the page was loaded anew, from the server: it goes before what was changed since. */
  async restore() {
    const kept = await this.port.history(this.#revision).catch(() => null)
    if (!kept) return // undo begins here, then
    const steps = (of: typeof kept.past) => of.map(({ document, label }) => ({ value: document, label }))
    const { history } = this.#snapshot
    const isNew = history.past.length === 0 && history.future.length === 0
    this.#put({
      history: {
        ...history,
        past: [...steps(kept.past), ...history.past],
        future: isNew ? steps(kept.future) : history.future,
      },
    })
  }

  /** Saves at once; the revision that then stands. Throws what the server said when it could not be saved. */
  async flush(): Promise<number> {
    const before = this.#takenBack
    if (this.isDirty || this.#flying) await this.#save()
    if (this.isDirty || this.#takenBack !== before) throw this.#trouble
    return this.#revision
  }

  /** The page goes: what is not confirmed yet is sent once more, by a request that outlives it. */
  rescue() {
    if (this.isDirty && this.#saving.state !== 'conflict')
      void this.port.put(this.#revision, this.#present, this.#label, true).catch(() => undefined)
  }

  /** A version that the server made, as one step of the history. */
  adopt(room: Room) {
    this.#revision = room.revision
    this.#saved = room.document
    this.#become(changed(this.#snapshot.history, room.document, 'last step'))
  }

  /** Of two versions, the one on this page; undo brings the other back. */
  async keepMine() {
    const other = await this.port.get()
    this.#revision = other.revision
    this.#saved = other.document
    const { history } = this.#snapshot
    const past = [...history.past, { value: other.document, label: 'the other window’s version' }]
    this.#put({ history: { ...history, past }, saving: { state: 'pending' } })
    await this.#save()
  }
  async takeTheirs() {
    this.adopt(await this.port.get())
  }

  get #present() {
    return this.#snapshot.history.present
  }
  get #label() {
    return this.#snapshot.history.past.at(-1)?.label.slice(0, 200) ?? ''
  }
  get #saving() {
    return this.#snapshot.saving
  }

  #put(part: Partial<Snapshot>) {
    this.#snapshot = { ...this.#snapshot, ...part }
    for (const tell of this.#listeners) tell()
  }

  #become(history: History<RoomDoc>) {
    this.#put({ history, previewed: null })
    clearTimeout(this.#timer)
    if (!this.isDirty) return this.#rest()
    this.#isKept = this.drafts.write(this.id, { revision: this.#revision, document: this.#present })
    if (this.#saving.state === 'conflict') return // which version should stand is asked first
    if (this.#saving.state !== 'saving') this.#put({ saving: { state: 'pending' } })
    this.#later(SAVE_AFTER_MS)
  }

  #later(ms: number) {
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.#save(), ms)
  }

  #rest() {
    clearTimeout(this.#timer)
    this.drafts.drop(this.id)
    this.#put({ saving: { state: 'saved' } })
  }

  /** What a closed tab or a crash left behind: sent when it fits, asked about when the room went on without it. */
  #recover(room: Room) {
    const draft = this.drafts.read(room.id)
    if (!draft) return
    if (contains(room.document, draft.document)) return this.drafts.drop(room.id)
    const history = changed(this.#snapshot.history, draft.document, 'the change kept in this browser')
    if (draft.revision === room.revision) this.#become(history)
    else this.#put({ history, saving: { state: 'conflict', newest: room.revision } })
  }

  #save(): Promise<void> {
    clearTimeout(this.#timer)
    this.#flying ??= this.#send().finally(() => (this.#flying = null))
    return this.#flying
  }

  async #send() {
    let taken: Saving | null = null
    while (this.isDirty) {
      const document = this.#present
      this.#put({ saving: { state: 'saving' } })
      try {
        const room = await this.port.put(this.#revision, document, this.#label, false)
        this.#confirmed(room.revision, document)
      } catch (error) {
        if (await this.#wasConfirmed(error, document)) continue
        if (!isRefusal(error)) return this.#failed(error)
        taken = this.#takeBack(error)
      }
    }
    this.#rest()
    if (taken) this.#put({ saving: taken })
  }

  #confirmed(revision: number, document: RoomDoc) {
    this.#revision = revision
    this.#saved = document
    this.#failures = 0
    if (this.isDirty) this.drafts.write(this.id, { revision, document: this.#present })
    this.port.onSaved()
  }

  /** A refusal of what is saved already: the answer to an earlier try was lost on its way here. */
  async #wasConfirmed(error: unknown, document: RoomDoc): Promise<boolean> {
    if (!(error instanceof Refused) || error.status !== 409) return false
    const theirs = await this.port.get().catch(() => null)
    if (!theirs || !contains(theirs.document, document)) return false
    this.#confirmed(theirs.revision, document)
    return true
  }

  /** The last step is undone, for good: it would be refused again. */
  #takeBack(error: Refused): Saving {
    this.#trouble = error
    this.#takenBack += 1
    const { history } = this.#snapshot
    const what = history.past.at(-1)?.label ?? ''
    const back = history.past.length ? undone(history).present : this.#saved
    this.#put({ history: { past: history.past.slice(0, -1), present: back, future: [] }, previewed: null })
    return { state: 'taken-back', ...inWords(error), what }
  }

  #failed(error: unknown) {
    this.#trouble = error
    if (error instanceof Refused && error.status === 409)
      return this.#put({ saving: { state: 'conflict', newest: error.newest ?? this.#revision + 1 } })
    this.#put({ saving: { state: 'failed', ...inWords(error) } })
    // what is asked first, as for a passcode, is not asked again by itself; a server that is down comes back
    if (error instanceof Refused && error.status < 500) return
    this.#later(RETRY_MS[Math.min(this.#failures, RETRY_MS.length - 1)]!)
    this.#failures += 1
  }
}
