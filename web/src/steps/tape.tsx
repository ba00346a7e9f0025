import { Disclosure, DisclosureButton, DisclosurePanel } from '@headlessui/react'
import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import type { RoomDoc } from '../api/client'
import { roomQueries } from '../api/queries'
import { extentOf } from '../room/geometry'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { LengthField, NumberField, TextField } from '../ui/fields'
import { Select } from '../ui/select'

const SURFACES = ['floor', 'ceiling', 'wall-1', 'wall-2', 'wall-3', 'wall-4'] as const
const SURFACE_NAMES: Record<string, string> = {
  floor: 'Floor', ceiling: 'Ceiling', 'wall-1': 'Wall 1 (bottom)', 'wall-2': 'Wall 2 (right)', 'wall-3': 'Wall 3 (top)', 'wall-4': 'Wall 4 (left)',
} // prettier-ignore

type Opening = RoomDoc['openings'][number]
type Furnishing = RoomDoc['furnishings'][number]

/** Everything that fits the room still fits after its walls have moved: things are pulled in with them. */
export function resized(document: RoomDoc, size: { x: number; y: number; z: number }): RoomDoc {
  const e = extentOf(document)
  const [kx, ky] = [size.x / (e.maxX - e.minX), size.y / (e.maxY - e.minY)]
  const kz = size.z / (document.shape.ceiling.height_m ?? size.z)
  const at2 = (p: readonly number[]): [number, number] => [
    round(e.minX + (p[0]! - e.minX) * kx),
    round(e.minY + (p[1]! - e.minY) * ky),
  ]
  const at3 = (p: readonly number[]): [number, number, number] => [...at2(p), round(Math.min(p[2]!, size.z - 0.1))]
  const onWall = <T extends { surface: string; x_m: number; z_m: number; width_m: number; height_m: number }>(
    t: T,
  ): T => {
    const flat = t.surface === 'floor' || t.surface === 'ceiling'
    const k = flat ? kx : t.surface === 'wall-1' || t.surface === 'wall-3' ? kx : ky
    const kv = flat ? ky : Math.min(kz, 1)
    const shrink = Math.min(k, 1)
    return {
      ...t,
      x_m: round(t.x_m * k),
      width_m: round(t.width_m * shrink),
      z_m: round(t.z_m * (flat ? ky : kv)),
      height_m: round(t.height_m * Math.min(kv, 1)),
    }
  }
  return {
    ...document,
    shape: {
      ...document.shape,
      plan: document.shape.plan.map((p) => at2(p)),
      ceiling: { ...document.shape.ceiling, height_m: size.z },
    },
    openings: document.openings.map(onWall),
    furnishings: document.furnishings.map((f) => ({ ...f, at: at2(f.at) })),
    noises: document.noises.map((n) => (n.at ? { ...n, at: at3(n.at) } : n)),
    arrangements: document.arrangements.map((a) => ({
      ...a,
      performer: { ...a.performer, at: at3(a.performer.at) },
      microphone: { ...a.microphone, at: at3(a.microphone.at) },
      monitors: a.monitors.map((m) => ({ ...m, at: at3(m.at) })),
      listener: a.listener ? { ...a.listener, at: at3(a.listener.at) } : null,
      treatments: a.treatments.map(onWall),
    })),
  } // prettier-ignore
}

const round = (value: number) => Math.round(value * 10000) / 10000
const sideCheck = (metres: number) =>
  metres >= 0.5 && metres <= 25 ? null : `${metres.toFixed(2)} m: a room here is 0.5 to 25 m. Check the unit.`

export function TapePanel() {
  const { document, change } = useRoom()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const e = extentOf(document)
  const size = { x: e.maxX - e.minX, y: e.maxY - e.minY, z: document.shape.ceiling.height_m ?? 2.4 }
  const setSize = (part: Partial<typeof size>) => change('room size', (now) => resized(now, { ...size, ...part }))
  const materials = (catalogue?.materials ?? []).map((m) => ({
    key: m.key,
    name: m.name,
    group: m.group,
    hint: m.mounting,
  }))
  const volume = size.x * size.y * size.z
  return (
    <div className="space-y-3">
      <h2 className="text-[1.1rem]">The room, by tape</h2>
      <TextField label="Name" value={document.name} onChange={(name) => name.trim() && change('name', (now) => ({ ...now, name }))} />
      <div className="grid grid-cols-3 gap-2">
        <LengthField label="Length" metres={size.x} check={sideCheck} onChange={(x) => setSize({ x })} />
        <LengthField label="Width" metres={size.y} check={sideCheck} onChange={(y) => setSize({ y })} />
        <LengthField label="Height" metres={size.z} check={sideCheck} onChange={(z) => setSize({ z })} />
      </div>
      <p className="text-[0.86rem] text-ink-2">
        Type as you read it: 3.62, 362 cm or {`11' 10 1/2"`}. Floor {(size.x * size.y).toFixed(1)} m², volume {volume.toFixed(1)} m³.
      </p>
      <Group title="Surfaces" open>
        <div className="grid grid-cols-2 gap-2">
          {SURFACES.map((surface) => (
            <Select
              key={surface}
              label={SURFACE_NAMES[surface]!}
              value={document.surfaces[surface]?.material ?? ''}
              options={materials}
              onChange={(material) => change(`${surface} material`, (now) => ({ ...now, surfaces: { ...now.surfaces, [surface]: { material } } }))}
            />
          ))}
        </div>
      </Group>
      <Group title={`Door and window (${document.openings.length})`}>
        <Openings />
      </Group>
      <Group title={`Furniture (${document.furnishings.length})`}>
        <Furnishings />
      </Group>
      <Group title="Air">
        <div className="grid grid-cols-2 gap-2">
          <NumberField label="Temperature" unit="°C" value={document.air.temperature_c} low={-10} high={45} onChange={(temperature_c) => change('temperature', (now) => ({ ...now, air: { ...now.air, temperature_c } }))} />
          <NumberField label="Humidity" unit="%" value={document.air.humidity_pct} low={5} high={100} onChange={(humidity_pct) => change('humidity', (now) => ({ ...now, air: { ...now.air, humidity_pct } }))} />
        </div>
      </Group>
    </div>
  ) // prettier-ignore
}

export function Group({ title, open = false, children }: { title: string; open?: boolean; children: ReactNode }) {
  return (
    <Disclosure defaultOpen={open} as="div" className="border-t border-line pt-2">
      <DisclosureButton className="group flex w-full items-center justify-between text-left font-display font-semibold">
        {title}
        <span aria-hidden className="text-ink-2 transition group-data-open:rotate-180">▾</span>
      </DisclosureButton>
      <DisclosurePanel className="pt-2">{children}</DisclosurePanel>
    </Disclosure>
  ) // prettier-ignore
}

const WALLS = ['wall-1', 'wall-2', 'wall-3', 'wall-4'].map((key) => ({ key, name: SURFACE_NAMES[key]! }))
const OPENING_MATERIALS = new Set(['Glass', 'Doors'])

function Openings() {
  const { document, change } = useRoom()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const materials = (catalogue?.materials ?? []).filter((m) => OPENING_MATERIALS.has(m.group))
  const e = extentOf(document)
  const spaceOf = (o: Opening) => (o.surface === 'wall-1' || o.surface === 'wall-3' ? e.maxX - e.minX : e.maxY - e.minY)
  const high = document.shape.ceiling.height_m ?? 2.4
  const set = (i: number, part: Partial<Opening>) =>
    change('opening', (now) => ({ ...now, openings: now.openings.map((o, k) => (k === i ? { ...o, ...part } : o)) }))
  const add = (kind: 'door' | 'window') =>
    change(`add a ${kind}`, (now) => ({
      ...now,
      openings: [
        ...now.openings,
        kind === 'door'
          ? { kind, surface: 'wall-1', x_m: 0.1, z_m: 0, width_m: 0.78, height_m: Math.min(2, high - 0.05), material: 'door-wood', hinge: 'left' as const }
          : { kind, surface: 'wall-3', x_m: 0.3, z_m: 0.9, width_m: 0.9, height_m: Math.min(1.1, high - 0.95), material: 'glass-window', hinge: 'left' as const },
      ],
    })) // prettier-ignore
  const fits = (o: Opening, part: Partial<Opening>) => {
    const n = { ...o, ...part }
    if (n.x_m + n.width_m > spaceOf(n) + 1e-6)
      return `It would reach past the end of the wall (${spaceOf(n).toFixed(2)} m).`
    if (n.z_m + n.height_m > high + 1e-6) return `It would reach past the ceiling (${high.toFixed(2)} m).`
    return n.width_m > 0.05 && n.height_m > 0.05 ? null : 'Too small to matter.'
  }
  return (
    <div className="space-y-3">
      {document.openings.map((o, i) => (
        <div key={i} className="rounded-lg border border-line p-2.5">
          <div className="mb-1.5 flex items-center justify-between">
            <h3 className="font-semibold capitalize">{o.kind}</h3>
            <Button small look="quiet" onClick={() => change(`remove the ${o.kind}`, (now) => ({ ...now, openings: now.openings.filter((_, k) => k !== i) }))}>Remove</Button>
          </div>
          <div className="grid grid-cols-2 gap-2">
            <Select label="In" value={o.surface} options={WALLS} onChange={(surface) => set(i, { surface, x_m: Math.min(o.x_m, Math.max(spaceOf({ ...o, surface }) - o.width_m, 0)) })} />
            <Select label="Made of" value={o.material ?? ''} options={materials} onChange={(material) => set(i, { material })} />
            <LengthField label="From the wall's first corner" metres={o.x_m} check={(x_m) => fits(o, { x_m })} onChange={(x_m) => set(i, { x_m })} />
            <LengthField label="Above the floor" metres={o.z_m} check={(z_m) => fits(o, { z_m })} onChange={(z_m) => set(i, { z_m })} />
            <LengthField label="Wide" metres={o.width_m} check={(width_m) => fits(o, { width_m })} onChange={(width_m) => set(i, { width_m })} />
            <LengthField label="High" metres={o.height_m} check={(height_m) => fits(o, { height_m })} onChange={(height_m) => set(i, { height_m })} />
          </div>
        </div>
      ))}
      <div className="flex gap-2">
        <Button small onClick={() => add('door')}>Add a door</Button>
        <Button small onClick={() => add('window')}>Add a window</Button>
      </div>
    </div>
  ) // prettier-ignore
}

function Furnishings() {
  const { document, change } = useRoom()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const kinds = catalogue?.furnishings ?? []
  const e = extentOf(document)
  const set = (i: number, part: Partial<Furnishing>) =>
    change('furniture', (now) => ({
      ...now,
      furnishings: now.furnishings.map((f, k) => (k === i ? { ...f, ...part } : f)),
    }))
  const inside = (low: number, high: number) => (m: number) =>
    m > low && m < high ? null : 'That is outside the room.'
  return (
    <div className="space-y-3">
      {document.furnishings.map((f, i) => (
        <div key={i} className="rounded-lg border border-line p-2.5">
          <div className="mb-1.5 flex items-center justify-between">
            <h3 className="font-semibold capitalize">{kinds.find((k) => k.key === f.kind)?.name ?? f.kind}</h3>
            <Button small look="quiet" onClick={() => change('remove furniture', (now) => ({ ...now, furnishings: now.furnishings.filter((_, k) => k !== i) }))}>Remove</Button>
          </div>
          <div className="grid grid-cols-3 gap-2">
            <LengthField label="From the left" metres={f.at[0] - e.minX} check={inside(0, e.maxX - e.minX)} onChange={(x) => set(i, { at: [x + e.minX, f.at[1]] })} />
            <LengthField label="From the bottom" metres={f.at[1] - e.minY} check={inside(0, e.maxY - e.minY)} onChange={(y) => set(i, { at: [f.at[0], y + e.minY] })} />
            <NumberField label="Turned" unit="°" value={f.turn_deg} low={-360} high={360} onChange={(turn_deg) => set(i, { turn_deg })} />
          </div>
        </div>
      ))}
      <Select
        label="Add a piece"
        value=""
        options={[{ key: '', name: 'Choose…' }, ...kinds]}
        onChange={(kind) => {
          const size_m = kinds.find((k) => k.key === kind)?.size_m
          if (size_m) change('add furniture', (now) => ({ ...now, furnishings: [...now.furnishings, { kind, at: [(e.minX + e.maxX) / 2, (e.minY + e.maxY) / 2], size_m: [...size_m] as [number, number, number], turn_deg: 0 }] }))
        }}
      />
      <p className="text-[0.84rem] text-ink-2">Places are the piece’s centre.</p>
    </div>
  ) // prettier-ignore
}
