import type { Edit } from '../../api/client'
import { freeSpot } from '../../room/floor'
import { radians, turned } from '../../room/geometry'
import { useCatalogue, useFurnishingKinds } from '../../state/catalogue'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { LengthField, NumberField } from '../../ui/fields'
import { Select } from '../../ui/select'

const APART_M = 0.3

/** A second microphone: put up, typed, taken down, and beside it what the two make when they are heard together. */
export function SecondMic() {
  const { document, active, edit } = useRoom()
  const { patterns } = useCatalogue()
  const kinds = useFurnishingKinds()
  const { active: predicted } = usePredicted()
  const { microphone: first, second_microphone: second } = active
  const stands = (at: Extract<Edit, { do: 'place' }>['at'], turn_deg: number, tilt_deg: number): Edit => ({
    do: 'place',
    who: 'second-microphone',
    at,
    turn_deg: turned(turn_deg),
    tilt_deg,
  })
  if (!second) {
    const add = () => {
      const aside = radians(first.aims_deg + 90)
      const wished = [first.at[0] + APART_M * Math.cos(aside), first.at[1] + APART_M * Math.sin(aside)] as const
      const [x, y] = freeSpot(document, active, kinds, wished, { z: first.at[2], roomM: 0.1, besides: [first.at] })
      edit(stands([x, y, first.at[2]], first.aims_deg, first.tilt_deg))
    }
    return (
      <Button small onClick={add}>
        Put up a second microphone
      </Button>
    )
  }
  const pair = predicted?.pair
  return (
    <fieldset className="rounded-lg border border-line p-2.5" data-testid="second-mic">
      <legend className="px-1 font-semibold">Second microphone</legend>
      <div className="grid grid-cols-2 gap-2">
        <LengthField
          label="Second capsule height"
          metres={second.at[2]}
          check={(m) => (m > 0.02 && m < 6 ? null : 'From 2 cm to 6 m.')}
          onChange={(z) => edit(stands([second.at[0], second.at[1], z], second.aims_deg, second.tilt_deg))}
        />
        <NumberField
          label="Second aims"
          unit="°"
          value={second.aims_deg}
          low={-360}
          high={360}
          onChange={(turn) => edit(stands(second.at, turn, second.tilt_deg))}
        />
        <Select
          label="Second pattern"
          value={second.pattern}
          options={patterns}
          onChange={(pattern) => edit({ do: 'choose-pattern', who: 'second-microphone', pattern })}
        />
      </div>
      {pair ? (
        <dl className="mt-2 grid grid-cols-[1fr_auto] gap-x-3 text-small" data-testid="pair">
          <dt className="text-ink-2">The later one comes after</dt>
          <dd className="text-right font-semibold">{pair.delay_ms.toFixed(2)} ms</dd>
          <dt className="text-ink-2">Added together, first notch</dt>
          <dd className="text-right font-semibold">
            {pair.notches_hz[0] === undefined ? 'none' : `${Math.round(pair.notches_hz[0])} Hz`}, comb{' '}
            {pair.ripple_db.toFixed(1)} dB deep
          </dd>
          <dt className="text-ink-2">Lost in mono, most</dt>
          <dd className="text-right font-semibold">
            {(Math.min(0, ...pair.mono_loss.map((l) => l.db)) || 0).toFixed(1).replace('-', '−')} dB
          </dd>
          {pair.recording_angle_deg == null ? null : (
            <>
              <dt className="text-ink-2">Recording angle</dt>
              <dd className="text-right font-semibold">{pair.recording_angle_deg.toFixed(0)}°</dd>
            </>
          )}
        </dl>
      ) : null}
      <Button small look="quiet" className="mt-1.5" onClick={() => edit({ do: 'take-out', who: 'second-microphone' })}>
        Take it down
      </Button>
    </fieldset>
  )
}
