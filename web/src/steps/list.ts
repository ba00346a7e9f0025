import { brief } from './brief'
import { hush } from './hush'
import { ledger } from './ledger'
import { listen } from './listen'
import { marks } from './marks'
import { session } from './session'
import type { Step } from './step'
import { take } from './take'
import { tape } from './tape'
import { treat } from './treat'

/** The path, in its order. A new step is a folder beside these and a line here. */
export const STEPS: readonly Step[] = [brief, tape, listen, marks, treat, hush, take, session, ledger]
