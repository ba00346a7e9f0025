import { createContext, useContext } from 'react'
import type { Forecast } from '../api/client'
import type { Layer } from '../room/layers/layer'
import type { View } from '../room/views'
import type { FaceKind } from '../room/walls-view'
import type { Step } from '../steps/step'

type Mode = Forecast['modes'][number]

export type Desk = {
  step: Step
  view: View
  setView: (view: View) => void
  layer: Layer
  setLayer: (key: string) => void
  /** The note that is painted, of those that are heard. */
  mode: Mode | null
  heard: readonly Mode[]
  paint: (hz: number) => void
  /** Whether the swell is painted at the height of the ears instead of the microphone. */
  atEars: boolean
  setAtEars: (on: boolean) => void
  /** Which surfaces lie unfolded. */
  side: FaceKind
  setSide: (side: FaceKind) => void
  wall: number | null
  setWall: (wall: number | null) => void
  /** The reading that is open, the kind that is being taken, whether the table lies open: parts of the address. */
  reading: string | null
  open: (readingId: string, replace?: boolean) => void
  taking: string | null
  take: (kind: string) => void
  /** The reading that was just taken for this step, until it was seen. */
  learnt: string | null
  learn: (readingId: string | null) => void
  table: boolean
  openTable: () => void
  /** Back to the step itself. */
  close: () => void
}

export const DeskContext = createContext<Desk | null>(null)

export function useDesk(): Desk {
  const value = useContext(DeskContext)
  if (!value) throw new Error('useDesk must be used inside <DeskProvider>')
  return value
}
