import type { Schemas } from '../api/client'
import { useCatalogue } from './catalogue'
import { useRoom } from './room'

/** What things cost in this room: its own prices first, else the list in its currency; a frame costs what it is made of. */
export function usePrices() {
  const { prices } = useCatalogue()
  const { currency, prices: own } = useRoom().document.brief
  const priceOf = (key: string): number => {
    const listed = prices.find((p) => p.key === key)?.prices ?? {}
    return own[key] ?? listed[currency] ?? listed['€'] ?? 0
  }
  const ofPiece = ({ takes }: Schemas['PieceAnswer']) =>
    Object.entries(takes).reduce((sum, [key, amount]) => sum + amount * priceOf(key), 0)
  return { currency, priceOf, ofPiece }
}
