import { useSyncExternalStore } from 'react'

/** Money that new rooms are planned with: as was chosen, else as the browser's country lets guess. */
export const CURRENCIES = ['€', '£', '$'] as const
export type Currency = (typeof CURRENCIES)[number]
const KEY = 'kq-currency'
const listeners = new Set<() => void>()

const guessed = (): Currency =>
  /-(US|CA|AU|NZ)\b/.test(navigator.language) ? '$' : /-GB\b/.test(navigator.language) ? '£' : '€'
export const currencyNow = (): Currency => CURRENCIES.find((sign) => sign === localStorage.getItem(KEY)) ?? guessed()

export function setCurrency(sign: Currency) {
  localStorage.setItem(KEY, sign)
  listeners.forEach((tell) => tell())
}

export const useCurrency = (): Currency =>
  useSyncExternalStore((tell) => {
    listeners.add(tell)
    return () => listeners.delete(tell)
  }, currencyNow)

/** What something costs, in whole units of money: list prices are no truer. */
export const priceText = (cost: number, currency: string) =>
  cost > 0 ? `about ${currency}${Math.max(Math.round(cost), 1)}` : 'free'
