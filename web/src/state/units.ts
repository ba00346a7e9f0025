import { useSyncExternalStore } from 'react'

export type Units = 'metric' | 'imperial'
const KEY = 'kq-units'
const listeners = new Set<() => void>()

const guessed = (): Units => (/^en-(US|LR)|^my/.test(navigator.language) ? 'imperial' : 'metric')
const current = (): Units => (localStorage.getItem(KEY) as Units | null) ?? guessed()

export function setUnits(units: Units) {
  localStorage.setItem(KEY, units)
  listeners.forEach((tell) => tell())
}

export function useUnits(): Units {
  return useSyncExternalStore((tell) => {
    listeners.add(tell)
    return () => listeners.delete(tell)
  }, current)
}

const gcd = (a: number, b: number): number => (b === 0 ? a : gcd(b, a % b))

/** A length for reading: `3.62 m`, or `11' 10 1/2"` to the nearest eighth of an inch. */
export function lengthText(metres: number, units: Units): string {
  if (units === 'metric') return `${metres.toFixed(2)} m`
  const eighths = Math.round((metres / 0.0254) * 8)
  const feet = Math.trunc(eighths / 96)
  const inches = Math.trunc((eighths - feet * 96) / 8)
  const rest = Math.abs(eighths % 8)
  const fraction = rest === 0 ? '' : `${inches !== 0 ? ' ' : ''}${rest / gcd(rest, 8)}/${8 / gcd(rest, 8)}`
  const small = inches === 0 && fraction ? fraction.trim() : `${inches}${fraction}`
  return feet !== 0 ? `${feet}' ${small}"` : `${small}"`
}

/** A short distance: `44 cm`, or `1' 5"` to the nearest half inch. */
export function shortText(metres: number, units: Units): string {
  return units === 'metric' ? `${Math.round(metres * 100)} cm` : lengthText(Math.round(metres / 0.0127) * 0.0127, units)
}
