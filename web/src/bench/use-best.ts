import { useQuery } from '@tanstack/react-query'
import { type Form, inWords, type Reading } from '../api/client'
import { roomQueries } from '../api/queries'
import { useRoom } from '../state/room'
import { isOf, type ReadingOf } from './of-form'

/**
 * The reading of a form that a plot shows: the chosen one, else the newest that counts, real before simulated.
 * Null when there is none, undefined while it is fetched: what waits keeps the place of what comes.
 */
export function useBest<F extends Form>(form: F, chosen: string | null = null): ReadingOf<F> | null | undefined {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const usable = readings.filter((r) => r.form === form && r.verdict.usable)
  const fitting = usable.filter((r) => r.counts)
  // what was chosen is shown, also when it was set aside
  const best = usable.find((r) => r.id === chosen) ?? fitting.find((r) => !r.simulated) ?? fitting[0]
  const reading = useReading(best?.id ?? null)
  if (best && !reading) return undefined
  return reading && isOf(reading, form) ? reading : null
}

/** The usable reading of the same form that was taken last before this one, real beside real; null without one. */
export function useBefore<F extends Form>(reading: ReadingOf<F> & { id: string }, form: F): ReadingOf<F> | null {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const here = readings.findIndex((r) => r.id === reading.id)
  // the newest comes first, whatever clocks say
  const last = (here < 0 ? [] : readings.slice(here + 1)).find(
    (r) => r.form === form && r.verdict.usable && r.simulated === readings[here]?.simulated,
  )
  const before = useReading(last?.id ?? null)
  return before && isOf(before, form) ? before : null
}

export function useReading(readingId: string | null): Reading | null | undefined {
  const { data } = useQuery({ ...roomQueries.reading(readingId ?? ''), enabled: readingId !== null })
  return readingId === null ? null : data
}

/** Why a reading cannot be opened; null while it can. */
export function useReadingDamage(readingId: string | null) {
  const { error } = useQuery({ ...roomQueries.reading(readingId ?? ''), enabled: readingId !== null })
  return error ? inWords(error) : null
}
