import { bare } from './bare'
import { flutter } from './flutter'
import type { Layer } from './layer'
import { nulls } from './null'
import { paths } from './paths'
import { places } from './places'
import { swell } from './swell'

/** What can lie on the drawing, in the order of its choice. A new layer is a module beside these and a line here. */
export const LAYERS: readonly Layer[] = [paths, places, swell, nulls, flutter, bare]
