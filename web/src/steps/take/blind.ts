/** Comparing blind: which trial plays what, and how likely the score is by luck. */

export type Trial = { isA: boolean; said: 'a' | 'b' | null }
export const LEAST_TRIALS = 10
export const MOST_TRIALS = 16

/** Trials in an order that nobody knows, as many of the one as of the other within one. */
export function newTrials(count: number, random: () => number = Math.random): Trial[] {
  const order = Array.from({ length: count }, (_, i) => i % 2 === 0)
  for (let i = order.length - 1; i > 0; i -= 1) {
    const k = Math.floor(random() * (i + 1))
    ;[order[i], order[k]] = [order[k]!, order[i]!]
  }
  return order.map((isA) => ({ isA, said: null }))
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
  const odds = `1 in ${Math.max(Math.round(1 / luck), 1)} by luck`
  return luck < 0.05
    ? `${hits} of ${trials} right (${odds}): you do hear a difference.`
    : `${hits} of ${trials} right (${odds}): no difference is proved. Keep the one that was played better.`
}
