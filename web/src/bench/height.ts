import { createContext } from 'react'

/** How tall the plots of a bench are, by the place that the bench has on its stage. [px] */
export const BenchHeight = createContext(150)
