import type { RoomDoc, Schemas } from '../../api/client'
import { extentOf } from '../../room/geometry'
import { freeFloor } from '../../room/floor'
import { useFurnishingKinds } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Check, LengthField, NumberField } from '../../ui/fields'
import { Select } from '../../ui/select'

type Furnishing = RoomDoc['furnishings'][number]

/** Furniture and people: what, where, how large, which way round. They swallow, scatter, and stand in the way of sound. */
export function Furnishings({ kinds }: { kinds: readonly Schemas['FurnishingKind'][] }) {
  const { document, active, change } = useRoom()
  const byKey = useFurnishingKinds()
  const e = extentOf(document)
  const set = (i: number, part: Partial<Furnishing>) =>
    change('furniture', (now) => ({
      ...now,
      furnishings: now.furnishings.map((f, k) => (k === i ? { ...f, ...part } : f)),
    }))
  const inside = (limit: number) => (m: number) => (m > 0 && m < limit ? null : 'That is outside the room.')
  const real = (m: number) => (m >= 0.05 && m <= 6 ? null : 'From 5 cm to 6 m.')
  return (
    <div className="space-y-3">
      {document.furnishings.map((f, i) => {
        const kind = kinds.find((k) => k.key === f.kind)
        const size = f.size_m ?? kind?.size_m ?? [1, 0.5, 1]
        const sized = (part: 0 | 1 | 2, m: number) =>
          set(i, { size_m: size.map((s, k) => (k === part ? m : s)) as [number, number, number] })
        return (
          <div key={i} className="rounded-lg border border-line p-2.5">
            <div className="mb-1.5 flex items-center justify-between">
              <h3 className="font-semibold capitalize">{kind?.name ?? f.kind}</h3>
              <span className="flex">
                <Button
                  small
                  look="quiet"
                  aria-label={`Turn the ${kind?.name ?? f.kind} a quarter`}
                  onClick={() => set(i, { turn_deg: ((f.turn_deg ?? 0) + 90) % 360 })}
                >
                  ⟲ 90°
                </Button>
                <Button
                  small
                  look="quiet"
                  onClick={() =>
                    change('remove furniture', (now) => ({
                      ...now,
                      furnishings: now.furnishings.filter((_, k) => k !== i),
                    }))
                  }
                >
                  Remove
                </Button>
              </span>
            </div>
            {f.kind === 'wardrobe' ? (
              <div className="mb-1 grid grid-cols-2 gap-2">
                <Check label="Stands open" checked={f.open} onChange={(open) => set(i, { open })} />
                {f.open ? (
                  <NumberField
                    label="How full"
                    unit="%"
                    value={f.fullness * 100}
                    low={0}
                    high={100}
                    onChange={(v) => set(i, { fullness: v / 100 })}
                  />
                ) : null}
              </div>
            ) : null}
            <div className="grid grid-cols-3 gap-2">
              <LengthField
                label="From the left"
                metres={f.at[0] - e.minX}
                check={inside(e.maxX - e.minX)}
                onChange={(x) => set(i, { at: [x + e.minX, f.at[1]] })}
              />
              <LengthField
                label="From the bottom"
                metres={f.at[1] - e.minY}
                check={inside(e.maxY - e.minY)}
                onChange={(y) => set(i, { at: [f.at[0], y + e.minY] })}
              />
              <NumberField
                label="Turned"
                unit="°"
                value={f.turn_deg}
                low={-360}
                high={360}
                onChange={(turn_deg) => set(i, { turn_deg })}
              />
              <LengthField label="Long" metres={size[0]} check={real} onChange={(m) => sized(0, m)} />
              <LengthField label="Deep" metres={size[1]} check={real} onChange={(m) => sized(1, m)} />
              <LengthField label="High" metres={size[2]} check={real} onChange={(m) => sized(2, m)} />
            </div>
          </div>
        )
      })}
      <Select
        label="Add a piece"
        value=""
        options={[
          { key: '', name: 'Choose' },
          ...kinds.map((k) => ({
            key: k.key,
            name: k.name,
            hint: k.body[1] > k.body[0] ? '' : 'sound passes through',
          })),
        ]}
        onChange={(key) => {
          const size_m = kinds.find((k) => k.key === key)?.size_m
          if (!size_m) return
          change('add furniture', (now) => {
            const piece: Furnishing = {
              kind: key,
              at: [(e.minX + e.maxX) / 2, (e.minY + e.maxY) / 2],
              size_m: [...size_m] as [number, number, number],
              turn_deg: 0,
              open: false,
              fullness: 0.7,
            }
            return { ...now, furnishings: [...now.furnishings, freeFloor(now, active, byKey, piece)] }
          })
        }}
      />
      <p className="text-small text-ink-2">Drag pieces on the drawing, or type: places are the piece’s centre.</p>
    </div>
  )
}
