import { $api, type Arrangement } from '../api/client'
import { useRoom } from '../state/room'
import { useSettled } from '../state/use-settled'
import { Button } from '../ui/button'
import { LengthField, SaidField } from '../ui/fields'
import { Caution } from '../ui/notice'

type Chain = Arrangement['chain']
const SAID = [
  ['dial', 'Gain dial', 'e.g. 2 o’clock'],
  ['pad', 'Pad', 'off, −10 dB'],
  ['low_cut', 'Low cut', 'off, 80 Hz'],
  ['phones', 'Headphones', 'which, how loud'],
] as const

/** What only the person knows and must find again, written down with the arrangement. */
export function ChainFields() {
  const { active, change } = useRoom()
  const { ask, enabled } = useSettled()
  const { data: sheet } = $api.useQuery('post', '/api/marks-sheet', { body: ask }, { enabled })
  const { chain } = active
  const set = (part: Partial<Chain>) =>
    change('how it is set', (now) => ({
      ...now,
      arrangements: now.arrangements.map((a) => (a.id === active.id ? { ...a, chain: { ...a.chain, ...part } } : a)),
    }))
  const last = sheet?.last
  const differs = last && JSON.stringify(last) !== JSON.stringify(chain)
  return (
    <div className="space-y-2" data-testid="chain">
      <div className="grid grid-cols-2 gap-2">
        {SAID.map(([field, label, hint]) => (
          <SaidField
            key={field}
            label={label}
            value={chain[field]}
            hint={hint}
            onChange={(text) => set({ [field]: text.slice(0, 60) })}
          />
        ))}
        <LengthField
          label="Pop screen off the capsule"
          metres={chain.screen_gap_m ?? 0}
          check={(m) => (m <= 1 ? null : 'Up to 1 m.')}
          onChange={(m) => set({ screen_gap_m: m > 0 ? m : null })}
        />
        <SaidField
          label="Temperature (°C)"
          value={chain.temperature_c == null ? '' : String(chain.temperature_c)}
          onChange={(text) => {
            const celsius = Number(text.replace(',', '.'))
            if (text.trim() === '') set({ temperature_c: null })
            else if (celsius > -20 && celsius <= 50) set({ temperature_c: celsius })
          }}
        />
      </div>
      {differs ? (
        <Button small onClick={() => set(last)}>
          As last time
        </Button>
      ) : null}
      {sheet?.cautions.map((text) => (
        <Caution key={text} text={text} />
      ))}
    </div>
  )
}
