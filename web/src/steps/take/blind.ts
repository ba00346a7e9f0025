/** Comparing blind: which trial plays what, and how likely the score is by luck. */

export type Trial = { isA: boolean; said: 'a' | 'b' | null }
export const LEAST_TRIALS = 10
export const MOST_TRIALS = 16

/** Each trial a coin of its own: were both equally often, the last could be counted out and luck would not be one half. */
export function newTrials(count: number, random: () => number = Math.random): Trial[] {
  return Array.from({ length: count }, () => ({ isA: random() < 0.5, said: null }))
}

export const right = (trials: readonly Trial[]) =>
  trials.filter((t) => t.said !== null && (t.said === 'a') === t.isA).length

/** Chance of so many right or more by luck alone: the binomial's tail at one half. */
export function byLuck(hits: number, trials: number): number {
  let chance = 0
  let ways = 1
  for (let k = 0; k <= trials; k += 1) {
    if (k >= hits) chance += ways
    ways = (ways * (trials - k)) / (k + 1)
  }
  return chance / 2 ** trials
}

/** What a score says. */
export function verdictOf(hits: number, trials: number): string {
  const luck = byLuck(hits, trials)
  const once = Math.round(1 / luck)
  const odds = once <= 1 ? 'as luck alone would have it' : `by luck once in ${once}`
  return luck < 0.05
    ? `${hits} of ${trials} right (${odds}): you do hear a difference.`
    : `${hits} of ${trials} right (${odds}): no difference is proved. Keep the one that was played better.`
}
