import createClient from 'openapi-fetch'
import createQueryClient from 'openapi-react-query'
import type { components, paths } from './schema'
import { refusal } from './refused'
import { patient } from './waiting'

export { inWords, Refused, refusal } from './refused'

export type Schemas = components['schemas']
export type RoomDoc = Schemas['RoomDoc']
export type Arrangement = Schemas['ArrangementDoc']
export type Treatment = Schemas['TreatmentDoc']
export type Forecast = Schemas['ForecastAnswer']
export type Move = Schemas['MoveAnswer']
export type Reading = Schemas['ReadingAnswer']
export type ReadingSummary = Schemas['ReadingSummary']
export type Measured = Schemas['MeasuredMarks']
export type Marks = Schemas['Marks']
export type Edit = Move['edits'][number]
export type KindInfo = Schemas['KindAnswer']
/** What a reading gives, told apart by its form. */
export type Result = Reading['result']
export type Form = NonNullable<Result['form']>
export type ResultOf<F extends Form> = Extract<Result, { form: F }>
export type Job = Schemas['JobAnswer']
export type LedgerEntry = Schemas['LedgerAnswer']
export type Catalogue = Schemas['Catalogue']
export type MarkKey = 'bounce' | 'boom' | 'hush' | 'touch'

export const api = createClient<paths>({ baseUrl: '/', fetch: patient })
/** The same through the query library: keys and types follow from the path. */
export const $api = createQueryClient(api)

api.use({
  onResponse: async ({ response }) => {
    if (!response.ok) throw refusal(response.status, await response.json().catch(() => undefined))
  },
})

/** The data of an answer; its type follows from the path that was asked. Refusals have been thrown before. */
export function unwrap<T>({ data, response }: { data?: T; response: Response }): T {
  if (data === undefined) throw refusal(response.status, undefined)
  return data
}
