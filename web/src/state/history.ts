/** Undo and redo over whole values. A reducer without side effects: the same object comes back when nothing changed. */
export type History<T> = { past: readonly Step<T>[]; present: T; future: readonly Step<T>[] }
type Step<T> = { value: T; label: string }

const MOST_STEPS = 100

export const started = <T>(present: T): History<T> => ({ past: [], present, future: [] })

export function changed<T>(history: History<T>, present: T, label: string): History<T> {
  if (present === history.present) return history
  const past = [...history.past, { value: history.present, label }].slice(-MOST_STEPS)
  return { past, present, future: [] }
}

export function undone<T>(history: History<T>): History<T> {
  const last = history.past.at(-1)
  if (!last) return history
  return {
    past: history.past.slice(0, -1),
    present: last.value,
    future: [{ value: history.present, label: last.label }, ...history.future],
  }
}

export function redone<T>(history: History<T>): History<T> {
  const next = history.future[0]
  if (!next) return history
  return {
    past: [...history.past, { value: history.present, label: next.label }],
    present: next.value,
    future: history.future.slice(1),
  }
}
