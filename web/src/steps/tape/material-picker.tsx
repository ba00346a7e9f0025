import { useQuery } from '@tanstack/react-query'
import { useMemo, useState } from 'react'
import { $api, type RoomDoc, type Schemas } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { PANEL } from '../../room/soft-at'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { NumberField } from '../../ui/fields'
import { Failed } from '../../ui/notice'
import { Segmented } from '../../ui/segmented'
import { Select } from '../../ui/select'
import { AbsorptionCurve } from './absorption-curve'

export type Made = Pick<RoomDoc['surfaces'][string], 'material' | 'absorption' | 'absorber'>
type Way = 'catalogue' | 'built' | 'own'
const WAYS: readonly { key: Way; name: string }[] = [
  { key: 'catalogue', name: 'Catalogue' },
  { key: 'built', name: 'Built from layers' },
  { key: 'own', name: 'Own figures' },
]
export const OCTAVES = ['63', '125', '250', '500', '1000', '2000', '4000', '8000'] as const

/** What a surface is made of, in words. */
export function madeName(
  made: Made | undefined,
  catalogue: Schemas['Catalogue'] | undefined,
  fallback = 'not said',
): string {
  if (made?.absorber) return BUILDS.find((b) => b.key === made.absorber!.kind)?.name ?? 'Built from layers'
  if (made?.absorption) return 'Own figures'
  return catalogue?.materials.find((m) => m.key === made?.material)?.name ?? fallback
}

/** A button that says what something is made of and opens the choice. */
export function MaterialButton({
  label,
  made,
  fallback,
  onChange,
}: {
  label: string
  made: Made | undefined
  fallback?: string | undefined
  onChange: (made: Made) => void
}) {
  const [open, setOpen] = useState(false)
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  return (
    <div className="min-w-0">
      <span className="mb-0.5 block text-small text-ink-2">{label}</span>
      <button
        onClick={() => setOpen(true)}
        aria-label={`${label}: ${madeName(made, catalogue, fallback)}`}
        className="flex min-h-9 w-full items-center justify-between gap-2 rounded-lg border border-line-strong bg-card px-2.5 text-left text-note hover:bg-floor"
      >
        <span className="truncate">{madeName(made, catalogue, fallback)}</span>
        <span aria-hidden className="text-ink-2">
          ▾
        </span>
      </button>
      {open ? (
        <Picker label={label} made={made} catalogue={catalogue} onClose={() => setOpen(false)} onChange={onChange} />
      ) : null}
    </div>
  )
}

function Picker({
  label,
  made,
  catalogue,
  onClose,
  onChange,
}: {
  label: string
  made: Made | undefined
  catalogue: Schemas['Catalogue'] | undefined
  onClose: () => void
  onChange: (made: Made) => void
}) {
  const [way, setWay] = useState<Way>(made?.absorber ? 'built' : made?.absorption ? 'own' : 'catalogue')
  const choose = (next: Made) => {
    onChange({ material: null, absorption: null, absorber: null, ...next })
    onClose()
  }
  return (
    <Sheet open onClose={onClose} title={`${label}: what is it made of?`} wide>
      <div className="space-y-3">
        <Segmented small label="Where the figures come from" value={way} options={WAYS} onChange={setWay} />
        {way === 'catalogue' ? (
          <FromCatalogue
            catalogue={catalogue}
            place={placeOf(label)}
            chosen={made?.material ?? null}
            onChoose={(material) => choose({ material })}
          />
        ) : null}
        {way === 'built' ? (
          <Built start={made?.absorber ?? null} onChoose={(absorber) => choose({ absorber })} />
        ) : null}
        {way === 'own' ? (
          <Own start={made?.absorption ?? null} onChoose={(absorption) => choose({ absorption })} />
        ) : null}
      </div>
    </Sheet>
  )
}

const CONFIDENCE: Record<string, string> = {
  table: 'printed table',
  computed: 'computed from its layers',
  estimate: 'our estimate',
  definition: 'by definition',
  own: 'yours',
}

/** What of a room a surface is, by what it is called. */
const placeOf = (label: string) =>
  (['floor', 'ceiling', 'wall'] as const).find((p) => label.toLowerCase().startsWith(p))

function FromCatalogue({
  catalogue,
  place,
  chosen,
  onChoose,
}: {
  place: ReturnType<typeof placeOf>
  catalogue: Schemas['Catalogue'] | undefined
  chosen: string | null
  onChoose: (key: string) => void
}) {
  const [words, setWords] = useState('')
  const [shown, setShown] = useState<string | null>(chosen)
  const groups = useMemo(() => {
    const found = (catalogue?.materials ?? []).filter((m) =>
      words
        .toLowerCase()
        .split(/\s+/)
        .every((w) => `${m.name} ${m.also.join(' ')} ${m.group} ${m.mounting} ${m.key}`.toLowerCase().includes(w)),
    )
    const likely = found.filter((m) => place && m.likely[place]).sort((a, b) => a.likely[place!]! - b.likely[place!]!)
    const by = new Map<string, typeof found>(likely.length ? [[`Likely for a ${place}`, likely]] : [])
    for (const m of found.filter((one) => !likely.includes(one))) by.set(m.group, [...(by.get(m.group) ?? []), m])
    return [...by]
  }, [catalogue, place, words])
  const material = catalogue?.materials.find((m) => m.key === shown)
  return (
    <div className="space-y-2">
      <input
        type="search"
        value={words}
        onChange={(e) => setWords(e.target.value)}
        placeholder="laminate, drywall, carpet"
        aria-label="Search the catalogue"
        className="min-h-9 w-full rounded-lg border border-line-strong bg-card px-2.5"
      />
      <div className="max-h-60 overflow-y-auto rounded-lg border border-line" tabIndex={0} aria-label="Materials">
        {groups.length === 0 ? (
          <p className="p-3 text-ink-2">Nothing is called that. Try fewer words, or give own figures.</p>
        ) : null}
        {groups.map(([group, materials]) => (
          <div key={group}>
            <h3 className="sticky top-0 bg-floor px-3 py-0.5 text-small text-ink-2">{group}</h3>
            <ul>
              {materials.map((m) => (
                <li key={m.key}>
                  <button
                    aria-pressed={shown === m.key}
                    onClick={() => setShown(m.key)}
                    onDoubleClick={() => onChoose(m.key)}
                    className={`flex w-full justify-between gap-3 px-3 py-1 text-left text-note hover:bg-felt-soft ${shown === m.key ? 'bg-felt-soft font-semibold' : ''}`}
                  >
                    <span className="whitespace-nowrap">{m.name}</span>
                    <span className="truncate text-small font-normal text-ink-2">
                      {m.also.length ? m.also.slice(0, 3).join(', ') : m.mounting}
                    </span>
                  </button>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
      {material ? (
        <>
          <AbsorptionCurve
            points={material.absorption.map((a, i) => [Number(OCTAVES[i]), a] as const)}
            label={material.name}
          />
          <p className="text-small text-ink-2">
            {material.name}, {material.mounting}. Source: {material.source} (
            {CONFIDENCE[material.confidence] ?? material.confidence}).
            {material.filled.length
              ? ` Not in the source, held from the next octave: ${material.filled.join(', ')} Hz.`
              : ''}
          </p>
        </>
      ) : null}
      <Button look="main" disabled={!material} onClick={() => material && onChoose(material.key)}>
        Use this
      </Button>
    </div>
  )
}

type Absorber = NonNullable<Made['absorber']>
const BUILDS: readonly { key: Absorber['kind']; name: string; hint: string }[] = [
  { key: 'porous', name: 'Porous layer', hint: 'wool, foam, felt, with or without a gap' },
  { key: 'membrane', name: 'Board or skin over a gap', hint: 'tuned to one low note' },
  { key: 'perforated', name: 'Board with holes', hint: 'tuned by holes and depth' },
  { key: 'slotted', name: 'Board with slots', hint: 'tuned by slots and depth' },
  { key: 'cloth', name: 'Hung cloth', hint: 'curtain or blanket' },
]
const NEW: Absorber = { ...PANEL, flow_resistivity: 8000 }

type Knob = {
  field:
    | 'thickness_m'
    | 'flow_resistivity'
    | 'gap_m'
    | 'facing_resistance'
    | 'mass_kg_m2'
    | 'open_share'
    | 'opening_m'
    | 'board_m'
    | 'fullness'
    | 'resistance'
  label: string
  unit: string
  scale: number
  low: number
  high: number
  step: number
}
const GAP: Knob = { field: 'gap_m', label: 'Air gap behind', unit: 'mm', scale: 1000, low: 0, high: 400, step: 5 }
const KNOBS: Record<Absorber['kind'], Knob[]> = {
  porous: [
    { field: 'thickness_m', label: 'Thickness', unit: 'mm', scale: 1000, low: 10, high: 300, step: 5 },
    {
      field: 'flow_resistivity',
      label: 'Flow resistivity',
      unit: 'Pa s/m²',
      scale: 1,
      low: 1000,
      high: 60000,
      step: 500,
    },
    GAP,
    { field: 'facing_resistance', label: 'Cloth on the front', unit: 'Pa s/m', scale: 1, low: 0, high: 1000, step: 10 },
  ],
  membrane: [
    { field: 'mass_kg_m2', label: 'Board', unit: 'kg/m²', scale: 1, low: 0.5, high: 25, step: 0.5 },
    GAP,
    { field: 'thickness_m', label: 'Wool in the gap', unit: 'mm', scale: 1000, low: 0, high: 200, step: 5 },
  ],
  perforated: [
    { field: 'open_share', label: 'Open area', unit: '%', scale: 100, low: 0.5, high: 40, step: 0.5 },
    { field: 'opening_m', label: 'Hole', unit: 'mm', scale: 1000, low: 1, high: 30, step: 0.5 },
    { field: 'board_m', label: 'Board', unit: 'mm', scale: 1000, low: 2, high: 50, step: 1 },
    GAP,
    { field: 'thickness_m', label: 'Wool behind it', unit: 'mm', scale: 1000, low: 0, high: 200, step: 5 },
  ],
  slotted: [],
  cloth: [
    { field: 'mass_kg_m2', label: 'Cloth', unit: 'kg/m²', scale: 1, low: 0.1, high: 1.5, step: 0.05 },
    { field: 'fullness', label: 'Fullness', unit: '×', scale: 1, low: 1, high: 3, step: 0.1 },
    { field: 'resistance', label: 'Flow resistance', unit: 'Pa s/m', scale: 1, low: 20, high: 2000, step: 20 },
    GAP,
  ],
}
KNOBS.slotted = KNOBS.perforated.map((k) => (k.field === 'opening_m' ? { ...k, label: 'Slot' } : k))

/** An absorber by its layers, its curve drawn while the sliders move. */
function Built({ start, onChoose }: { start: Absorber | null; onChoose: (absorber: Absorber) => void }) {
  const [spec, setSpec] = useState<Absorber>({ ...NEW, ...start })
  const found = $api.useQuery('post', '/api/absorber', { body: spec })
  const knobs = KNOBS[spec.kind]
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      <div className="space-y-2">
        <Select
          label="Kind"
          value={spec.kind}
          options={BUILDS.map((b) => ({ ...b }))}
          onChange={(kind) =>
            setSpec({
              ...spec,
              kind: kind as Absorber['kind'],
              ...(kind === 'cloth'
                ? { mass_kg_m2: 0.4, gap_m: Math.max(spec.gap_m, 0.05) }
                : kind === 'porous'
                  ? { thickness_m: Math.max(spec.thickness_m, 0.05) }
                  : { mass_kg_m2: 5, gap_m: Math.max(spec.gap_m, 0.05) }),
            })
          }
        />
        {knobs.map((k) => {
          const value = Number(spec[k.field] ?? 0) * k.scale
          return (
            <label key={k.field} className="block text-small text-ink-2">
              <span className="flex justify-between">
                <span>{k.label}</span>
                <strong className="text-ink">
                  {Number(value.toFixed(2))} {k.unit}
                </strong>
              </span>
              <input
                type="range"
                min={k.low}
                max={k.high}
                step={k.step}
                value={value}
                onChange={(e) => setSpec({ ...spec, [k.field]: Number(e.target.value) / k.scale })}
                className="w-full accent-[var(--felt)]"
              />
            </label>
          )
        })}
      </div>
      <div className="space-y-2">
        <Failed error={found.error} />
        <AbsorptionCurve
          points={(found.data?.curve.f_hz ?? []).map((f, i) => [f, found.data!.curve.diffuse[i]!] as const)}
          label="As built"
          tuned={found.data?.resonance_hz ?? null}
        />
        <p className="text-small text-ink-2">
          {found.data?.resonance_hz ? `Tuned to about ${found.data.resonance_hz.toFixed(0)} Hz. ` : ''}
          Random incidence, computed while you move the sliders. Mineral wool: gloves, mask, eyes; cloth and foam away
          from heat.
        </p>
        <Button look="main" disabled={found.isError} onClick={() => onChoose(spec)}>
          Use this
        </Button>
      </div>
    </div>
  )
}

/** A table of one's own, by octave. */
function Own({
  start,
  onChoose,
}: {
  start: Made['absorption'] | null
  onChoose: (table: Record<string, number>) => void
}) {
  const [table, setTable] = useState<Record<string, number>>(() => ({
    ...Object.fromEntries(OCTAVES.map((f) => [f, 0.1])),
    ...start,
  }))
  return (
    <div className="space-y-2">
      <div className="grid grid-cols-4 gap-2">
        {OCTAVES.map((f) => (
          <NumberField
            key={f}
            label={f}
            unit="Hz"
            value={table[f] ?? 0.1}
            low={0}
            high={1.2}
            digits={2}
            onChange={(a) => setTable({ ...table, [f]: a })}
          />
        ))}
      </div>
      <AbsorptionCurve points={OCTAVES.map((f) => [Number(f), table[f] ?? 0] as const)} label="Own figures" />
      <p className="text-small text-ink-2">
        0 sends everything back, 1 swallows everything; measured panels may reach 1.2.
      </p>
      <Button look="main" onClick={() => onChoose(table)}>
        Use these
      </Button>
    </div>
  )
}
