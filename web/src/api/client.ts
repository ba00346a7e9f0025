import createClient from 'openapi-fetch'
import createQueryClient from 'openapi-react-query'
import type { components, paths } from './schema'
import { patient } from './waiting'

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

/** A refusal from the server: which field, why, and what to do. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly field: string,
    readonly reason: string,
    readonly cure: string,
    readonly newest: number | null = null,
  ) {
    super(`${reason} ${cure}`)
  }
}

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

export function refusal(status: number, body: unknown): Refused {
  const said = body as { error?: { field: string; reason: string; cure: string }; newest?: number } | undefined
  return said?.error
    ? new Refused(status, said.error.field, said.error.reason, said.error.cure, said.newest ?? null)
    : new Refused(status, 'server', `The server answered ${status}.`, 'Try again in a moment.')
}

/** Words for any failure, a dropped connection included. */
export function inWords(error: unknown): { title: string; cure: string } {
  if (error instanceof Refused) {
    const named = /^[a-z_. 0-9-]+$/i.test(error.field) && error.field.length < 40 ? `${error.field} ` : ''
    return { title: /^[A-Z'"\d]/.test(error.reason) ? error.reason : `${named}${error.reason}`, cure: error.cure }
  }
  if (error instanceof TypeError)
    return {
      title: 'Keen Quiet is not answering.',
      cure: 'Is it still running in the terminal? Your last change is kept here.',
    }
  return { title: error instanceof Error ? error.message : 'Something went wrong.', cure: 'Try again.' }
}
