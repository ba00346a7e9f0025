import type { ComponentType } from 'react'
import type { View } from '../room/views'
import type { Measured, ReadingSummary, RoomDoc } from '../api/client'

/** What is known of a room when its knots are drawn. */
export type Known = { document: RoomDoc; readings: readonly ReadingSummary[]; measured: Measured | undefined }

/**
 * How the four strings stand beside a stage: large where they are the subject, as a row where they are what a change is
 * measured by, as what is wanted only, or not at all where they are the stage itself.
 */
export type Strings = 'column' | 'row' | 'felts' | 'none'

/** One step of the path: what it asks, what fills its knot, what it shows. The frame knows a list of these. */
export type Step = {
  key: string
  name: string
  question: string
  /** A knot is filled when its step has what it needs. Nothing is ever locked. */
  filled: (known: Known) => boolean
  strings: Strings
  /** What the step is about, large: its first line answers the question. */
  Stage: ComponentType
  /** What is done here, beside it. */
  Side: ComponentType
  /** The layer that lies on the drawing, and how the room is seen, until another is chosen. */
  layer: string
  view?: View
  /** Whether walls, corners and furniture of the drawing are handles. */
  shapes?: boolean
  /** Whether the drawing shows where readings were taken. */
  spots?: boolean
  /** Whether readings are what the step shows: what was read here opens here. */
  reads?: boolean
  /** Keys that this stage has beside those of every page. */
  keys?: readonly (readonly [keys: string, what: string])[]
}
