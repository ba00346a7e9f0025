import type { ComponentType } from 'react'
import type { Measured, ReadingSummary, RoomDoc } from '../api/client'

/** What is known of a room when its knots are drawn. */
export type Known = { document: RoomDoc; readings: readonly ReadingSummary[]; measured: Measured | undefined }

/** One step of the path: what it asks, what fills its knot, what it shows. The frame knows a list of these. */
export type Step = {
  key: string
  name: string
  question: string
  /** A knot is filled when its step has what it needs. Nothing is ever locked. */
  filled: (known: Known) => boolean
  /** What answers the question, below the drawing. */
  Stage: ComponentType
  /** What is done here, beside it. */
  Side: ComponentType
  /** The layer that lies on the drawing until another is chosen. */
  layer: string
  /** Whether walls, corners and furniture of the drawing are handles. */
  shapes?: boolean
  /** Whether the drawing shows where readings were taken. */
  spots?: boolean
}
