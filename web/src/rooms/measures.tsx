import { CURRENCIES, setCurrency, useCurrency } from '../state/currency'
import { setUnits, useUnits } from '../state/units'
import { Segmented } from '../ui/segmented'

const UNITS = [
  { key: 'metric', name: 'Metres' },
  { key: 'imperial', name: 'Feet and inches' },
] as const

/** In what lengths and money are told: guessed, in sight, changed at once. */
export function Measures() {
  const units = useUnits()
  const currency = useCurrency()
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Segmented small label="Units" value={units} options={UNITS} onChange={setUnits} />
      <Segmented
        small
        label="Currency"
        value={currency}
        options={CURRENCIES.map((key) => ({ key, name: key }))}
        onChange={setCurrency}
      />
    </div>
  )
}
