import { useQuery } from '@tanstack/react-query'
import { roomQueries } from '../api/queries'
import { useRoom, withArrangement } from '../state/room'
import { Check, ClockField, NumberField } from '../ui/fields'
import { Select } from '../ui/select'

const PURPOSE_HINTS: Record<string, string> = {
  'dry-voice': 'The voice close and clear, the room out of the way',
  spoken: 'Reading, narration, talking',
  'some-room': 'Close, but not in a box',
  lively: 'Room to bloom: brass, several players',
}

export function BriefPanel() {
  const { document, active, change } = useRoom()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const brief = document.brief
  const set = (label: string, part: Partial<typeof brief>) =>
    change(label, (now) => ({ ...now, brief: { ...now.brief, ...part } }))
  const hour = typeof active.hour === 'number' ? active.hour : null
  return (
    <div className="space-y-3">
      <h2 className="text-[1.1rem]">What are you recording?</h2>
      <Select
        label="Who or what sounds"
        value={active.performer.source}
        options={(catalogue?.sources ?? []).filter((s) => s.key !== 'loudspeaker-small')}
        onChange={(source) =>
          change('performer', (now) => withArrangement(now, { ...active, performer: { ...active.performer, source } }))
        }
      />
      <Select
        label="How it should sound"
        value={brief.purpose}
        options={(catalogue?.purposes ?? []).map((p) => ({ ...p, hint: PURPOSE_HINTS[p.key] ?? '' }))}
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
          hour={hour ?? 11}
          onChange={(value) => change('hour', (now) => withArrangement(now, { ...active, hour: value }))}
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
