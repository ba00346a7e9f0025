import { useUnits } from '../state/units'
import { isBare, TextField, WhichUnit } from '../ui/fields'

export type Lengths = { length: string; width: string; height: string }
const SIDES = ['length', 'width', 'height'] as const
const EXAMPLES = { metric: ['3.62', '284 cm', '2,41 m'], imperial: [`11' 10 1/2"`, `9' 4"`, `7 11`] } as const

/** Whether one of three lengths has to be asked about first. */
export const useUnsure = (lengths: Lengths) => {
  const units = useUnits()
  return SIDES.some((side) => isBare(lengths[side], units))
}

/** Length, width and height as typed; a bare number is asked about where feet are meant as often as metres. */
export function ThreeLengths({ lengths, onChange }: { lengths: Lengths; onChange: (part: Partial<Lengths>) => void }) {
  const units = useUnits()
  return (
    <div className="grid grid-cols-3 gap-3">
      {SIDES.map((side, i) => (
        <div key={side}>
          <TextField
            label={side[0]!.toUpperCase() + side.slice(1)}
            value={lengths[side]}
            onChange={(text) => onChange({ [side]: text })}
            hint={`e.g. ${EXAMPLES[units][i]}`}
          />
          {isBare(lengths[side], units) ? (
            <WhichUnit text={lengths[side]} onSay={(text) => onChange({ [side]: text })} />
          ) : null}
        </div>
      ))}
    </div>
  )
}
