import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { type KindInfo, type Reading } from '../api/client'
import { rigReading } from '../api/queries'
import { useCatalogue } from '../state/catalogue'
import { useRoom } from '../state/room'
import { useLeaving } from '../ui/use-leaving'
import { Button } from '../ui/button'
import { Check, NumberField } from '../ui/fields'
import { Failed } from '../ui/notice'

/** The simulated room and recorder, also as a teacher: make something go wrong and see what the verdict says. */
export function PracticeRig({ kind, onTaken }: { kind: KindInfo; onTaken: (reading: Reading) => Promise<void> }) {
  const { id, active, flush } = useRoom()
  const { faults: everywhere, take_faults } = useCatalogue()
  const sung = kind.form === 'take'
  const known = sung ? [...take_faults, ...everywhere] : everywhere
  const leaving = useLeaving()
  const [gain, setGain] = useState(0)
  const [faults, setFaults] = useState<readonly string[]>([])
  const send = useMutation({
    mutationFn: async () => {
      await flush()
      const ask = { kind: kind.key, arrangement_id: active.id, gain_db: gain, faults: [...faults], silenced: [] }
      return rigReading(id, ask, leaving.current.signal)
    },
    onSuccess: onTaken,
  })
  return (
    <div className="space-y-3">
      <p className="text-ink-2">
        The rig simulates this room, its noises and an ordinary recorder. Its walls differ a little from the catalogue,
        as real ones do. Its readings are labelled <em>simulated</em> and never settle a mark that a real one has
        settled.
      </p>
      <fieldset>
        <legend className="mb-1 font-semibold">Make something go wrong, and see what the verdict says</legend>
        <div className="grid grid-cols-2 gap-x-4 max-sm:grid-cols-1">
          {known.map((fault) => (
            <Check
              key={fault.key}
              label={fault.name}
              checked={faults.includes(fault.key)}
              onChange={(on) => setFaults(on ? [...faults, fault.key] : faults.filter((f) => f !== fault.key))}
            />
          ))}
        </div>
      </fieldset>
      <div className="max-w-56">
        <NumberField
          label="Recorder gain, against the usual"
          unit="dB"
          value={gain}
          low={-30}
          high={40}
          onChange={setGain}
        />
      </div>
      <Button look="main" disabled={send.isPending} onClick={() => send.mutate()}>
        {send.isPending ? 'The rig is recording' : 'Let the rig record'}
      </Button>
      <Failed error={send.error} />
    </div>
  )
}
