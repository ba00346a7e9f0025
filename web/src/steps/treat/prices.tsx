import { useCatalogue } from '../../state/catalogue'
import { usePrices } from '../../state/prices'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { NumberField } from '../../ui/fields'

const STUFF: readonly { key: string; name: string }[] = [
  { key: 'make-timber', name: 'Board 18 × 100 mm, a metre' },
  { key: 'make-wool', name: 'Mineral wool 5 cm, a square metre' },
  { key: 'make-cloth', name: 'Cloth, a metre' },
  { key: 'make-small', name: 'Screws, glue, staples, a frame' },
  { key: 'make-hook', name: 'Plug with screw, or hook' },
  { key: 'make-line', name: 'Second line' },
]

/** What things cost here: ours until the user knows better. */
export function Prices({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { change } = useRoom()
  const { pieces, prices } = useCatalogue()
  const { currency, priceOf } = usePrices()
  const set = (key: string, price: number) =>
    change('a price', (now) => ({ ...now, brief: { ...now.brief, prices: { ...now.brief.prices, [key]: price } } }))
  const rows = [
    ...STUFF,
    ...pieces
      .filter((p) => prices.some((price) => price.key === p.key))
      .map(({ key, label }) => ({ key, name: label })),
  ]
  return (
    <Sheet open={open} onClose={onClose} title="What it costs here" wide>
      <div className="grid gap-2.5 sm:grid-cols-3">
        {rows.map(({ key, name }) => (
          <NumberField
            key={key}
            label={name}
            unit={currency}
            value={priceOf(key)}
            low={0}
            high={100000}
            digits={2}
            onChange={(price) => set(key, price)}
          />
        ))}
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button
          look="quiet"
          onClick={() => change('our prices', (now) => ({ ...now, brief: { ...now.brief, prices: {} } }))}
        >
          Ours again
        </Button>
        <Button look="main" onClick={onClose}>
          Done
        </Button>
      </div>
    </Sheet>
  )
}
