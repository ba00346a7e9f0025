import type { RoomDoc } from '../api/client'

/** A room's document that the server has not confirmed, and the revision that it was made from. */
export type Draft = { revision: number; document: RoomDoc }
export type Drafts = {
  read: (roomId: string) => Draft | null
  /** Whether it could be kept: private windows and full disks refuse. */
  write: (roomId: string, draft: Draft) => boolean
  drop: (roomId: string) => void
}

const keyOf = (roomId: string) => `kq-draft-${roomId}`

/** Drafts in this browser: written at every change, so that neither a crash nor a closed tab loses one. */
export const browserDrafts: Drafts = {
  read: (roomId) => {
    try {
      const text = localStorage.getItem(keyOf(roomId))
      return text === null ? null : (JSON.parse(text) as Draft)
    } catch {
      return null
    }
  },
  write: (roomId, draft) => {
    try {
      localStorage.setItem(keyOf(roomId), JSON.stringify(draft))
      return true
    } catch {
      return false
    }
  },
  drop: (roomId) => {
    try {
      localStorage.removeItem(keyOf(roomId))
    } catch {
      /* nothing was kept */
    }
  },
}
