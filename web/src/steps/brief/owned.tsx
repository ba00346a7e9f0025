import type { RoomDoc } from '../../api/client'
import { useCatalogue } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Check, NumberField, TextField } from '../../ui/fields'
import { Select } from '../../ui/select'

type Brief = RoomDoc['brief']
type OwnedThings = Brief['owned']
type Mic = OwnedThings['microphones'][number]
const CLOTH = [
  { key: 'rug', name: 'A thick rug' },
  { key: 'curtain', name: 'A heavy curtain' },
  { key: 'panel', name: 'Panels, 10 cm' },
  { key: 'trap', name: 'Panels, 20 cm' },
  { key: 'blanket', name: 'Thick blankets' },
  { key: 'pillows', name: 'Pillows to stack' },
  { key: 'mattress', name: 'A spare mattress' },
  { key: 'clothes-rail', name: 'A rail of clothes' },
] as const

/** What is at hand: free from then on, and offered first. */
export function Owned({ set }: { set: (label: string, part: Partial<Brief>) => void }) {
  const { document, active } = useRoom()
  const { patterns } = useCatalogue()
  const { brief } = document
  const { owned } = brief
  const own = (part: Partial<OwnedThings>) => set('what you own', { owned: { ...owned, ...part } })
  const mic = (i: number, part: Partial<Mic>) =>
    own({ microphones: owned.microphones.map((m, k) => (k === i ? { ...m, ...part } : m)) })
  return (
    <section aria-labelledby="owned" className="mt-auto rounded-2xl bg-floor px-4 py-3" data-testid="owned">
      <h3 id="owned" className="text-head">
        What you have already
      </h3>
      <div className="mt-2 grid grid-cols-[1.5fr_1fr_1fr] gap-5 max-lg:grid-cols-1">
        <div>
          <p className="mb-1 text-small text-ink-2">Microphones: another pattern may be the cheapest move</p>
          <ul className="space-y-1.5">
            {owned.microphones.map((m, i) => (
              <li key={i} className="grid grid-cols-[1fr_1fr_5.4rem_auto] items-end gap-1.5">
                <TextField label="Called" value={m.name} onChange={(name) => mic(i, { name })} />
                <Select
                  label="Pattern"
                  value={m.pattern}
                  options={patterns}
                  onChange={(pattern) => mic(i, { pattern })}
                />
                <NumberField
                  label="Own noise"
                  unit="dB(A)"
                  value={m.own_noise_dba ?? 16}
                  low={0}
                  high={60}
                  onChange={(own_noise_dba) => mic(i, { own_noise_dba })}
                />
                <Button
                  small
                  look="quiet"
                  aria-label={`Take ${m.name || 'this microphone'} off the list`}
                  onClick={() => own({ microphones: owned.microphones.filter((_, k) => k !== i) })}
                >
                  Off
                </Button>
              </li>
            ))}
          </ul>
          <Button
            small
            className="mt-1.5"
            onClick={() =>
              own({
                microphones: [
                  ...owned.microphones,
                  { name: `Microphone ${owned.microphones.length + 1}`, pattern: active.microphone.pattern },
                ],
              })
            }
          >
            Add a microphone
          </Button>
        </div>
        <div>
          <p className="mb-1 text-small text-ink-2">Soft things: they cost nothing in the moves</p>
          <Check label="A duvet" checked={brief.has_duvet} onChange={(has_duvet) => set('duvet', { has_duvet })} />
          {CLOTH.map(({ key, name }) => (
            <Check
              key={key}
              label={name}
              checked={owned.cloth.includes(key)}
              onChange={(on) => own({ cloth: on ? [...owned.cloth, key] : owned.cloth.filter((k) => k !== key) })}
            />
          ))}
        </div>
        <div className="space-y-2">
          <Select
            label="Headphones"
            value={owned.headphones}
            options={[
              { key: 'closed', name: 'Closed' },
              { key: 'open', name: 'Open', hint: 'they leak into the microphone' },
              { key: 'none', name: 'None' },
            ]}
            onChange={(key) => own({ headphones: key as OwnedThings['headphones'] })}
          />
          <NumberField
            label="Stands"
            unit=""
            value={owned.stands}
            low={0}
            high={20}
            onChange={(stands) => own({ stands })}
          />
          <Check label="Monitors" checked={owned.monitors} onChange={(monitors) => own({ monitors })} />
        </div>
      </div>
    </section>
  )
}
