import { useQuery } from '@tanstack/react-query'
import type { Arrangement } from '../api/client'
import { roomQueries } from '../api/queries'
import { NextMoves } from '../moves/next-moves'
import { extentOf, turned } from '../room/geometry'
import { useRoom, withArrangement } from '../state/room'
import { LengthField, NumberField } from '../ui/fields'
import { Select } from '../ui/select'
import { Group } from '../ui/group'

const PATTERN_HINTS: Record<string, string> = {
  omni: 'hears all round, no bass lift',
  subcardioid: 'a little towards the front',
  cardioid: 'front, deaf behind: the usual one',
  supercardioid: 'narrower, deaf to the sides behind',
  hypercardioid: 'narrowest of the family',
  'figure-8': 'front and back, deaf to the sides',
}

export function MarksPanel() {
  return (
    <div className="space-y-3">
      <Group title="Exact places" open={false}>
        <Places />
      </Group>
      <NextMoves />
    </div>
  )
}

function Places() {
  const { document, active, change } = useRoom()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const e = extentOf(document)
  const high = document.shape.ceiling.height_m ?? 2.4
  const within = (limit: number) => (m: number) =>
    m > 0 && m < limit ? null : `The room spans 0 to ${limit.toFixed(2)} m here; keep inside it.`
  const set = (label: string, next: Arrangement) => change(label, (now) => withArrangement(now, next))
  return (
    <div className="space-y-3">
      {(['performer', 'microphone'] as const).map((who) => {
        const at = active[who].at
        const place = (i: number, value: number) =>
          set(`place the ${who}`, {
            ...active,
            [who]: { ...active[who], at: at.map((v, k) => (k === i ? value : v)) as [number, number, number] },
          })
        return (
          <fieldset key={who} className="rounded-lg border border-line p-2.5">
            <legend className="px-1 font-semibold capitalize">{who}</legend>
            <div className="grid grid-cols-2 gap-2">
              <LengthField label="From the left" metres={at[0] - e.minX} check={within(e.maxX - e.minX)} onChange={(v) => place(0, v + e.minX)} />
              <LengthField label="From the bottom" metres={at[1] - e.minY} check={within(e.maxY - e.minY)} onChange={(v) => place(1, v + e.minY)} />
              <LengthField label={who === 'performer' ? 'Mouth height' : 'Capsule height'} metres={at[2]} check={within(high)} onChange={(v) => place(2, v)} />
              {who === 'performer' ? (
                <NumberField label="Faces" unit="°" value={active.performer.faces_deg} low={-360} high={360} onChange={(v) => set('turn the performer', { ...active, performer: { ...active.performer, faces_deg: turned(v) } })} />
              ) : (
                <NumberField label="Aims" unit="°" value={active.microphone.aims_deg} low={-360} high={360} onChange={(v) => set('turn the microphone', { ...active, microphone: { ...active.microphone, aims_deg: turned(v) } })} />
              )}
              {who === 'microphone' ? (
                <>
                  <NumberField label="Tilt up" unit="°" value={active.microphone.tilt_deg} low={-90} high={90} onChange={(tilt_deg) => set('tilt the microphone', { ...active, microphone: { ...active.microphone, tilt_deg } })} />
                  <Select
                    label="Pattern"
                    value={active.microphone.pattern}
                    options={(catalogue?.patterns ?? []).map((key) => ({ key, name: key, hint: PATTERN_HINTS[key] ?? '' }))}
                    onChange={(pattern) => set('pattern', { ...active, microphone: { ...active.microphone, pattern } })}
                  />
                </>
              ) : null}
            </div>
          </fieldset>
        )
      })}
      <p className="text-[0.84rem] text-ink-2">0° looks to the right of the drawing, 90° to its top.</p>
    </div>
  ) // prettier-ignore
}
