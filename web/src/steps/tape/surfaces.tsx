import { useQuery } from '@tanstack/react-query'
import type { RoomDoc } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { LengthField, TextField } from '../../ui/fields'
import { Group } from '../../ui/group'
import { Select } from '../../ui/select'
import { MaterialButton } from './material-picker'
import { useFaces } from './use-faces'

export const faceName = (name: string) =>
  name === 'floor'
    ? 'Floor'
    : name === 'ceiling'
      ? 'Ceiling'
      : name
          .replace('ceiling-drop-', 'Low ceiling ')
          .replace('ceiling-step-', 'Step ')
          .replace('ceiling-', 'Slope ')
          .replace('wall-', 'Wall ')

type Face = RoomDoc['surfaces'][string]
type Region = Face['regions'][number]

/** Materials of floor, ceiling and every wall, and parts of walls that are made of something else. */
export function Surfaces() {
  const { document, change } = useRoom()
  const { active } = usePredicted()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const faces = useFaces(document)
  const area = (name: string) => active?.shape.faces.find((f) => f.name === name)?.area_m2
  const of = (name: string): Face => document.surfaces[name] ?? { regions: [] }
  const set = (label: string, name: string, part: Partial<Face>) =>
    change(label, (now) => ({
      ...now,
      surfaces: { ...now.surfaces, [name]: { ...(now.surfaces[name] ?? { regions: [] }), ...part } },
    }))
  const listed = [
    'floor',
    'ceiling',
    ...faces.filter((f) => f !== 'floor' && f !== 'ceiling' && !f.startsWith('ceiling-step')),
  ]
  const whole = (name: string) =>
    name.startsWith('ceiling') && document.surfaces[name] === undefined ? 'as the ceiling' : undefined
  const walls = faces.filter((f) => f.startsWith('wall-'))
  const all = (material: RoomDoc['surfaces'][string]) =>
    change('all walls', (now) => ({
      ...now,
      surfaces: {
        ...now.surfaces,
        ...Object.fromEntries(walls.map((w) => [w, { ...material, regions: now.surfaces[w]?.regions ?? [] }])),
      },
    }))
  const regions = walls.flatMap((w) => of(w).regions.map((region, i) => ({ wall: w, region, i })))
  const put = (wall: string, i: number, part: Partial<Region>) =>
    set('part of a wall', wall, { regions: of(wall).regions.map((r, k) => (k === i ? { ...r, ...part } : r)) })
  return (
    <div className="space-y-2.5">
      <div className="grid grid-cols-2 gap-2">
        {listed.map((name) => (
          <MaterialButton
            key={name}
            label={`${faceName(name)}${area(name) === undefined ? '' : `, ${area(name)!.toFixed(1)} m²`}`}
            made={document.surfaces[name]}
            fallback={whole(name)}
            onChange={(made) => set(`${name} material`, name, made)}
          />
        ))}
      </div>
      <Button small look="quiet" onClick={() => all(of('wall-1'))}>
        All walls as wall 1
      </Button>
      <Group title={`Parts of walls (${regions.length})`}>
        <div className="space-y-2">
          {regions.map(({ wall, region, i }) => (
            <fieldset key={`${wall}-${i}`} className="rounded-lg border border-line p-2.5">
              <legend className="px-1 text-note font-semibold">
                {region.name || `Part ${i + 1}`} on {faceName(wall).toLowerCase()}
              </legend>
              <div className="grid grid-cols-2 gap-2">
                <TextField label="Called" value={region.name} onChange={(name) => put(wall, i, { name })} />
                <MaterialButton label="Made of" made={region} onChange={(made) => put(wall, i, made)} />
                <LengthField
                  label="From the wall's first corner"
                  metres={region.x_m}
                  onChange={(x_m) => put(wall, i, { x_m })}
                />
                <LengthField label="Above the floor" metres={region.z_m} onChange={(z_m) => put(wall, i, { z_m })} />
                <LengthField
                  label="Wide"
                  metres={region.width_m}
                  check={(m) => (m > 0.02 ? null : 'Too small.')}
                  onChange={(width_m) => put(wall, i, { width_m })}
                />
                <LengthField
                  label="High"
                  metres={region.height_m}
                  check={(m) => (m > 0.02 ? null : 'Too small.')}
                  onChange={(height_m) => put(wall, i, { height_m })}
                />
              </div>
              <Button
                small
                look="quiet"
                className="mt-1"
                onClick={() => set('remove a part', wall, { regions: of(wall).regions.filter((_, k) => k !== i) })}
              >
                Remove
              </Button>
            </fieldset>
          ))}
          <Select
            label="Add a part of"
            value=""
            options={[{ key: '', name: 'Choose a wall' }, ...walls.map((key) => ({ key, name: faceName(key) }))]}
            onChange={(wall) => {
              if (!wall) return
              const part: Region = {
                name: 'Brick part',
                material: catalogue?.materials[0]?.key ?? 'brick-painted',
                x_m: 0.1,
                z_m: 0.1,
                width_m: 0.6,
                height_m: 0.8,
              }
              set('add a part', wall, { regions: [...of(wall).regions, part] })
            }}
          />
        </div>
      </Group>
    </div>
  )
}
