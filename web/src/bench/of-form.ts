import type { Form, Reading, ResultOf } from '../api/client'

/** A reading whose result is known to be of a form. */
export type ReadingOf<F extends Form> = Omit<Reading, 'result'> & { result: ResultOf<F> }
export const isOf = <F extends Form>(reading: Reading, form: F): reading is Reading & ReadingOf<F> =>
  reading.result.form === form
