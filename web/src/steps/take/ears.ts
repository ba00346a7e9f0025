/** What this listener was found to hear, kept in this browser: it is the ears', not the room's. [dB] */

export type Ear = 'louder' | 'brighter' | 'noise'
export type Ears = Partial<Record<Ear, number>>
const KEY = 'kq-ears'

export function earsKept(): Ears {
  const found: Ears = {}
  const text = localStorage.getItem(KEY)
  if (text === null) return found
  try {
    const kept: unknown = JSON.parse(text)
    if (typeof kept !== 'object' || kept === null) return found
    const known = Object.entries(kept)
    for (const ear of ['louder', 'brighter', 'noise'] as const) {
      const value: unknown = known.find(([name]) => name === ear)?.[1]
      if (typeof value === 'number' && Number.isFinite(value)) found[ear] = value
    }
  } catch {
    // what is no record of ours is none
  }
  return found
}

export function keepEar(ear: Ear, db: number): Ears {
  const ears = { ...earsKept(), [ear]: db }
  localStorage.setItem(KEY, JSON.stringify(ears))
  return ears
}
