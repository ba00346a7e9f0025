import type { ComponentType, LazyExoticComponent } from 'react'
import type { Forecast } from '../../api/client'
import type { PlanView, RectPx } from '../geometry'

export type Path = Forecast['paths'][number]
/** What a layer is told of the sheet that it lies on. */
export type PlanProps = {
  view: PlanView
  /** What labels keep off, the floor, and the page on which they may stand. */
  obstacles: RectPx[]
  sheet: RectPx
  page: RectPx
}
export type SectionProps = {
  along: 'x' | 'y'
  /** Metres along the cut and above the floor to CSS pixels. */
  px: (at: readonly [number, number]) => readonly [number, number]
  pxPerM: number
}

/** Something that can lie on the drawing; each view draws what the layer has for it. */
export type Layer = {
  key: string
  name: string
  /** What is seen, in a line beside the drawing's tools. */
  says: string
  Plan?: ComponentType<PlanProps>
  Section?: ComponentType<SectionProps>
  Solid?: LazyExoticComponent<ComponentType>
  /** Takes the place of that line. */
  Tools?: ComponentType
}
