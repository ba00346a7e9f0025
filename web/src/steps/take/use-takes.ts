import { useQuery } from '@tanstack/react-query'
import type { ReadingSummary } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'

/** Takes that can be used, newest first. */
export function useTakes(): ReadingSummary[] {
  const { id } = useRoom()
  const { data = [] } = useQuery(roomQueries.readings(id))
  return data.filter((r) => r.form === 'take' && r.verdict.usable)
}

export const CHOICES = [
  { key: 'keep', name: 'Keep', sign: '★' },
  { key: 'maybe', name: 'Maybe', sign: '?' },
  { key: 'no', name: 'No', sign: '✕' },
] as const
export type Choice = (typeof CHOICES)[number]['key']
const CHOICE = 'choice:'

/** What was chosen for a take, if anything; nothing is ever deleted by it. */
export const choiceOf = (take: Pick<ReadingSummary, 'tags'>): Choice | null =>
  CHOICES.find(({ key }) => take.tags.includes(CHOICE + key))?.key ?? null

/** Its tags with another choice. */
export const chosenTags = (tags: readonly string[], choice: Choice | null): string[] => [
  ...tags.filter((t) => !t.startsWith(CHOICE)),
  ...(choice ? [CHOICE + choice] : []),
]

/** What a take is called: its song and section or the file's own name, else its number. */
export function shortNameOfTake(take: ReadingSummary, all: readonly ReadingSummary[]): string {
  const number = all.length - all.findIndex((r) => r.id === take.id)
  const tagged = take.tags.filter((t) => t !== 'line' && !t.includes(':')).join(' ')
  const words = tagged || (take.way === 'import' ? take.file_name.replace(/\.\w+$/, '') : '')
  return words || `Take ${number}`
}

/** The same in a list, with when it was sung, and what was chosen for it. */
export function nameOfTake(take: ReadingSummary, all: readonly ReadingSummary[]): string {
  const sign = CHOICES.find(({ key }) => key === choiceOf(take))?.sign
  const when = new Date(take.taken_at).toLocaleString([], {
    month: 'short',
    day: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  })
  const said = take.note ? ` “${take.note}”` : ''
  return `${sign ? `${sign} ` : ''}${shortNameOfTake(take, all)}${said}, ${when}`
}
