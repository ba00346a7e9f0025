import { useCatalogue } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Check, ClockField, NumberField } from '../../ui/fields'
import { Select } from '../../ui/select'

export function BriefSide() {
  const { document, active, change, edit } = useRoom()
  const { sources, purposes } = useCatalogue()
  const brief = document.brief
  const set = (label: string, part: Partial<typeof brief>) =>
    change(label, (now) => ({ ...now, brief: { ...now.brief, ...part } }))
  return (
    <div className="space-y-3">
      <h2 className="text-[1.1rem]">What are you recording?</h2>
      <Select
        label="Who or what sounds"
        value={active.performer.source}
        options={sources}
        onChange={(source) => edit({ do: 'choose-source', source })}
      />
      <Select
        label="How it should sound"
        value={brief.purpose}
        options={purposes}
        onChange={(purpose) => set('purpose', { purpose: purpose as typeof brief.purpose })}
      />
      <div className="grid grid-cols-2 gap-3">
        <NumberField
          label="Budget"
          unit={brief.currency}
          value={brief.budget}
          low={0}
          high={100000}
          onChange={(budget) => set('budget', { budget })}
        />
        <ClockField
          label="You record at"
          hour={active.hour ?? 11}
          onChange={(hour) => edit({ do: 'set-hour', hour })}
        />
      </div>
      <div>
        <Check
          label="I may drill into walls and ceiling"
          checked={brief.may_drill}
          onChange={(may_drill) => set('drilling', { may_drill })}
        />
        <Check
          label="There is a duvet at hand"
          checked={brief.has_duvet}
          onChange={(has_duvet) => set('duvet', { has_duvet })}
        />
      </div>
      <p className="text-[0.87rem] text-ink-2">
        These choices set what is wanted of each mark and which next moves are offered: nothing you cannot afford,
        nothing screwed where you may not.
      </p>
    </div>
  )
}
