import { clock } from '../../ui/clock'

export type Span = [from: number, to: number]
export type Calendar = {
  hours?: readonly (readonly [number, number])[]
  other_days?: readonly { weekdays: readonly number[]; hours?: readonly (readonly [number, number])[] }[]
}
export type Cycle = { period_min: number; on_share: number } | null

const startingOn = (calendar: Calendar, day: number): readonly (readonly [number, number])[] => {
  const other = (calendar.other_days ?? []).find((d) => d.weekdays.includes((day + 7) % 7))
  if (other) return other.hours ?? []
  const usual = calendar.hours ?? []
  return usual.length ? usual : [[0, 24]]
}

/** Stretches of one weekday (Monday 0) from midnight to midnight, with what is left of the night before. */
export function daySpans(calendar: Calendar, day: number): Span[] {
  const spans: Span[] = [
    ...startingOn(calendar, day).map(([a, b]): Span => (b < a ? [a, 24] : [a, b])),
    ...startingOn(calendar, day - 1).flatMap(([a, b]): Span[] => (b < a && b > 0 ? [[0, b]] : [])),
  ]
  const merged: Span[] = []
  for (const span of spans.filter(([a, b]) => b > a).sort((p, q) => p[0] - q[0])) {
    const last = merged.at(-1)
    if (last && span[0] <= last[1]) last[1] = Math.max(last[1], span[1])
    else merged.push([...span])
  }
  return merged
}

/** A cycle drawn within a span: each time it sounds; too fine to be told apart, the span itself. `finestH` : the least that can be drawn. */
export function beats(cycle: Cycle, [from, to]: Span, finestH: number): Span[] {
  if (!cycle) return [[from, to]]
  const [period, on] = [cycle.period_min / 60, (cycle.period_min * cycle.on_share) / 60]
  if (period < 2.5 * finestH) return [[from, to]]
  const found: Span[] = []
  for (let at = from + 0.3 * period; at < to; at += period) found.push([at, Math.min(at + on, to)])
  return found
}

export const spanWords = (spans: readonly Span[]) =>
  spans.length === 0
    ? 'not at all'
    : spans.length === 1 && spans[0]![0] === 0 && spans[0]![1] === 24
      ? 'all day'
      : spans.map(([a, b]) => `from ${clock(a)} to ${b === 24 ? '24:00' : clock(b)}`).join(' and ')

/** "5 to 0:30, 14-16" as spans; null for what cannot be meant. Nothing at all is always. */
export function readSpans(text: string): Span[] | null {
  if (!text.trim() || /^always$/i.test(text.trim())) return []
  const found: Span[] = []
  for (const part of text.split(/[,;]|\band\b/)) {
    const read = /^\s*(\d{1,2})(?:[:.](\d{2}))?\s*(?:-|–|to|until)\s*(\d{1,2})(?:[:.](\d{2}))?\s*$/i.exec(part)
    if (!read) return null
    const [from, to] = [Number(read[1]) + Number(read[2] ?? 0) / 60, Number(read[3]) + Number(read[4] ?? 0) / 60]
    if (from > 24 || to > 24 || Number(read[2] ?? 0) > 59 || Number(read[4] ?? 0) > 59) return null
    found.push([Math.round(from * 10000) / 10000, Math.round(to * 10000) / 10000])
  }
  return found
}

export const spansText = (spans: readonly (readonly [number, number])[]) =>
  spans.map(([a, b]) => `${clock(a)} to ${b === 24 ? '24:00' : clock(b)}`).join(', ')

export const DAY_LETTERS = ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su'] as const
