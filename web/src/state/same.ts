/** Whether everything in a value stands in another likewise; what the other says besides, as defaults do, is no matter. */
export function contains(whole: unknown, part: unknown): boolean {
  if (part === whole || part === undefined) return true
  if (part === null) return whole === undefined
  if (Array.isArray(part))
    return Array.isArray(whole) && whole.length === part.length && part.every((v, i) => contains(whole[i], v))
  if (typeof part !== 'object' || typeof whole !== 'object' || whole === null || Array.isArray(whole)) return false
  const inside = new Map<string, unknown>(Object.entries(whole))
  return Object.entries(part).every(([key, value]) => contains(inside.get(key), value))
}
