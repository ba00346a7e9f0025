import { useMutation } from '@tanstack/react-query'
import { roomsChanged } from '../api/cache'
import { useState } from 'react'
import { api, inWords, Refused, unwrap } from '../api/client'
import { currencyNow } from '../state/currency'
import { lengthText, useUnits } from '../state/units'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'
import { TextField } from '../ui/fields'
import { Notice } from '../ui/notice'
import { ThreeLengths, useUnsure } from './three-lengths'
import { capital } from '../ui/words'
import { Segmented } from '../ui/segmented'

/** Sizes that such places often have: somewhere to start until a tape is at hand. [m] */
const GUESSES: readonly [string, readonly [number, number, number]][] = [
  ['a cupboard', [1.2, 0.9, 2.2]],
  ['a bathroom', [2.2, 1.8, 2.4]],
  ['a hallway', [4, 1.1, 2.5]],
  ['a small bedroom', [3.2, 2.6, 2.4]],
  ['a kitchen', [3.6, 2.8, 2.5]],
  ['a living room', [5.5, 4, 2.5]],
]
const SOFTNESS = [
  { key: 'bare', name: 'Hard all round' },
  { key: 'some', name: 'A curtain' },
  { key: 'soft', name: 'Carpet, curtains' },
  { key: 'packed', name: 'Full of clothes' },
] as const
type Softness = (typeof SOFTNESS)[number]['key']

/** A candidate place in half a minute: three sizes, read or guessed, and how soft it is. */
export function AddPlace({ open, project, onClose }: { open: boolean; project: string; onClose: () => void }) {
  const units = useUnits()
  const [fields, setFields] = useState({ name: '', length: '', width: '', height: '' })
  const [softness, setSoftness] = useState<Softness>('some')
  const [guessed, setGuessed] = useState(false)
  const make = useMutation({
    mutationFn: async () =>
      unwrap(
        await api.POST('/api/rooms', {
          body: {
            name: fields.name,
            length: fields.length,
            width: fields.width,
            height: fields.height,
            softness,
            guessed,
            project,
            units,
            currency: currencyNow(),
          },
        }),
      ),
    onSuccess: async () => {
      await roomsChanged()
      setFields({ name: '', length: '', width: '', height: '' })
      setGuessed(false)
      onClose()
    },
  })
  const unsure = useUnsure(fields)
  const setLengths = (part: Partial<typeof fields>) => {
    setFields((now) => ({ ...now, ...part }))
    setGuessed(false)
  }
  const guess = (name: string, sizes: readonly [number, number, number]) => {
    const [length, width, height] = sizes.map((m) => lengthText(m, units)) as [string, string, string]
    setFields((now) => ({ name: now.name || capital(name.replace(/^an? /, '')), length, width, height }))
    setGuessed(true)
  }
  const refused = make.error instanceof Refused ? `${capital(make.error.field)}: ` : ''
  return (
    <Sheet open={open} onClose={onClose} title="Add a place" wide>
      <form
        className="space-y-3.5"
        onSubmit={(e) => {
          e.preventDefault()
          make.mutate()
        }}
      >
        <TextField
          label="What do you call it?"
          value={fields.name}
          onChange={(name) => setFields((now) => ({ ...now, name }))}
        />
        <ThreeLengths lengths={fields} onChange={setLengths} />
        <div>
          <p className="mb-1 text-small text-ink-2">No tape at hand? It is about the size of</p>
          <div className="flex flex-wrap gap-1.5">
            {GUESSES.map(([name, sizes]) => (
              <Button key={name} small onClick={() => guess(name, sizes)}>
                {name}
              </Button>
            ))}
          </div>
          {guessed ? (
            <p className="mt-1 text-small text-ink-2">A guess: its figures carry a wider ±, until you tape it.</p>
          ) : null}
        </div>
        <div>
          <p className="mb-1 text-small text-ink-2">What is soft in it?</p>
          <Segmented small label="What is soft in it?" value={softness} options={SOFTNESS} onChange={setSoftness} />
        </div>
        {softness === 'packed' ? (
          <p className="text-small text-ink-2">
            In a closed cupboard air gets warm and stale within minutes: open the door between takes, and keep lamps and
            heaters away from clothes.
          </p>
        ) : null}
        {make.isError ? (
          <Notice tone="stop" title={`${refused}${inWords(make.error).title}`} body={inWords(make.error).cure} />
        ) : null}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button look="main" type="submit" disabled={make.isPending || unsure}>
            Put it beside the others
          </Button>
        </div>
      </form>
    </Sheet>
  )
}
