const NAMES = ['C', 'C#', 'D', 'D#', 'E', 'F', 'F#', 'G', 'G#', 'A', 'A#', 'B']

/** Nearest note of the equal-tempered scale, A4 = 440 Hz. */
export function nameOfNote(fHz: number): string {
  const number = Math.round(12 * Math.log2(fHz / 440) + 69)
  return `${NAMES[((number % 12) + 12) % 12]}${Math.floor(number / 12) - 1}`
}
