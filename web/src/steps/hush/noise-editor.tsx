import { useQuery } from '@tanstack/react-query'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { api, type Schemas, unwrap } from '../../api/client'
import { ofRoom, roomQueries } from '../../api/queries'
import { useCatalogue } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { Check, NumberField, TextField } from '../../ui/fields'
import { Failed } from '../../ui/notice'
import { Segmented } from '../../ui/segmented'
import { Select } from '../../ui/select'
import { CalendarFields } from './calendar-fields'

const KINDS = [
  { key: 'inside', name: 'In the room' },
  { key: 'outside', name: 'Behind a surface' },
  { key: 'structure', name: 'In the building' },
] as const
const OCTAVES = ['63', '125', '250', '500', '1000', '2000', '4000', '8000'] as const

type Props = { number: number | null; onClose: () => void }

/** A noise noted: which, from where, when, how it comes and goes, how loud; from a preset, a silence, or by hand. */
export function NoiseEditor({ number, onClose }: Props) {
  const { id, document, active, change } = useRoom()
  const { noises: presets } = useCatalogue()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const silences = readings.filter((r) => r.form === 'tone' && r.verdict.usable)
  const there = number === null ? null : document.noises[number]!
  const [noise, setNoise] = useState<Schemas['NoiseDoc']>(() => there ?? FRESH)
  const set = (part: Partial<Schemas['NoiseDoc']>) => setNoise((now) => ({ ...now, ...part }))
  const walls = document.shape.plan.map((_, i) => ({ key: `wall-${i + 1}`, name: `Wall ${i + 1}` }))
  const surfaces = [...walls, { key: 'floor', name: 'Floor' }, { key: 'ceiling', name: 'Ceiling' }]
  const windowWall = document.openings.find((o) => o.kind === 'window')?.surface
  const taken = document.noises.some((n, i) => i !== number && n.name === noise.name.trim())
  const trouble = !noise.name.trim() ? 'Give it a name.' : taken ? 'Another noise has this name.' : null

  const choose = (key: string) => {
    const preset = presets.find((p) => p.key === key)
    if (!preset) return
    const name = document.noises.some((n) => n.name === preset.label) ? `${preset.label}, another` : preset.label
    const kind = preset.kind as Schemas['NoiseDoc']['kind']
    const behind =
      preset.behind === 'window' ? (windowWall ?? 'wall-1') : preset.behind === 'wall' ? 'wall-1' : preset.behind
    setNoise({
      ...noise,
      preset: key,
      name,
      kind,
      octaves_db: preset.octaves_db,
      hum_hz: preset.hum_hz,
      hours: preset.hours,
      other_days: [],
      cycle: preset.cycle,
      surface: kind === 'inside' ? null : behind,
      at: kind === 'inside' ? middleOf(document.shape.plan) : null,
    })
  }
  const move = (kind: Schemas['NoiseDoc']['kind']) =>
    set(
      kind === 'inside'
        ? { kind, surface: null, at: middleOf(document.shape.plan) }
        : { kind, at: null, surface: noise.surface ?? windowWall ?? 'wall-1' },
    )
  const keep = () => {
    const kept = { ...noise, name: noise.name.trim() }
    change(number === null ? `note ${kept.name}` : `change ${kept.name}`, (now) => ({
      ...now,
      noises: number === null ? [...now.noises, kept] : now.noises.map((n, i) => (i === number ? kept : n)),
      arrangements: now.arrangements.map((a) => ({
        ...a,
        silenced: a.silenced.map((name) => (name === there?.name ? kept.name : name)),
      })),
    }))
    onClose()
  }
  const read = useMutation({
    mutationFn: (asked: { reading: string; finding: number | null }) =>
      api
        .POST('/api/rooms/{room_id}/noise-from-silence', {
          ...ofRoom(id),
          body: {
            document,
            arrangement_id: active.id,
            reading_id: asked.reading,
            finding: asked.finding,
            noise: { ...noise, name: noise.name.trim() || 'Noise' },
          },
        })
        .then(unwrap),
    onSuccess: (found) => set({ octaves_db: found.noise.octaves_db, hum_hz: found.noise.hum_hz ?? null }),
  })
  return (
    <Sheet open onClose={onClose} title={number === null ? 'Note a noise' : there!.name} wide="full">
      <div className="space-y-3" data-testid="noise-editor">
        {number === null ? (
          <div>
            <p className="mb-1 text-note text-ink-2">What is it? The levels are everyday ones, sure to 6 dB.</p>
            <ul className="grid grid-cols-5 gap-1.5 max-lg:grid-cols-3 max-sm:grid-cols-2">
              {presets.map((p) => (
                <li key={p.key}>
                  <button
                    type="button"
                    onClick={() => choose(p.key)}
                    aria-pressed={noise.preset === p.key}
                    className={`h-full w-full rounded-lg border px-2 py-1 text-left text-small leading-tight ${noise.preset === p.key ? 'border-ink bg-ink text-paper' : 'border-line-strong bg-card hover:bg-floor'}`}
                  >
                    {p.label}
                  </button>
                </li>
              ))}
            </ul>
          </div>
        ) : null}
        <div className="grid grid-cols-2 gap-3 max-sm:grid-cols-1">
          <TextField
            label="Name"
            value={noise.name}
            onChange={(name) => set({ name })}
            hint={noise.preset || number !== null ? (trouble ?? undefined) : undefined}
          />
          <div>
            <p className="mb-0.5 text-small text-ink-2">Where it comes from</p>
            <Segmented
              small
              columns={3}
              label="Where it comes from"
              value={noise.kind}
              options={KINDS}
              onChange={move}
            />
          </div>
          {noise.kind === 'inside' ? (
            <p className="self-end text-small text-ink-2">Drag it on the plan once it is noted.</p>
          ) : (
            <Select
              label={noise.kind === 'outside' ? 'Through' : 'At'}
              value={noise.surface ?? 'wall-1'}
              options={surfaces}
              onChange={(surface) => set({ surface, at: null })}
            />
          )}
          <div>
            <Check
              label="It comes and goes by itself"
              checked={Boolean(noise.cycle)}
              onChange={(on) => set({ cycle: on ? { period_min: 30, on_share: 0.4 } : null })}
            />
            {noise.cycle ? (
              <div className="grid grid-cols-2 gap-2">
                <NumberField
                  label="Every"
                  unit="min"
                  digits={1}
                  value={noise.cycle.period_min}
                  low={0.1}
                  high={1440}
                  onChange={(period_min) => set({ cycle: { ...noise.cycle!, period_min } })}
                />
                <NumberField
                  label="On for"
                  unit="% of it"
                  digits={0}
                  value={noise.cycle.on_share * 100}
                  low={1}
                  high={100}
                  onChange={(share) => set({ cycle: { ...noise.cycle!, on_share: share / 100 } })}
                />
              </div>
            ) : null}
          </div>
        </div>
        <div className="grid grid-cols-2 gap-4 max-sm:grid-cols-1">
          <CalendarFields
            calendar={noise}
            always="always"
            onChange={({ hours, other_days }) => set({ hours, other_days })}
          />
          <fieldset>
            <legend className="mb-0.5 text-small text-ink-2">Level at 1 m from it, by pitch (dB)</legend>
            <div className="grid grid-cols-4 gap-1.5">
              {OCTAVES.map((octave) => (
                <NumberField
                  key={octave}
                  label={Number(octave) >= 1000 ? `${Number(octave) / 1000} kHz` : `${octave} Hz`}
                  unit=""
                  value={noise.octaves_db[octave] ?? 0}
                  low={-20}
                  high={130}
                  onChange={(db) => set({ octaves_db: { ...noise.octaves_db, [octave]: db } })}
                />
              ))}
            </div>
          </fieldset>
        </div>
        {silences.length ? (
          <details>
            <summary className="cursor-pointer text-note font-semibold">Take the levels from a silence</summary>
            <ul className="mt-1">
              {silences.slice(0, 4).map((r) => (
                <SilenceRow key={r.id} id={r.id} said={r.headline.said ?? ''} onTake={read.mutate} />
              ))}
            </ul>
            {read.data ? (
              <p className="text-small text-ink-2">
                Taken: {BY[read.data.by] ?? read.data.by}, ± {read.data.plus_minus_db.toFixed(0)} dB.
              </p>
            ) : null}
            <Failed error={read.error} />
          </details>
        ) : null}
        <div className="flex flex-wrap justify-between gap-2 border-t border-line pt-3">
          {number !== null ? (
            <Button
              look="quiet"
              onClick={() => {
                change(`forget ${there!.name}`, (now) => ({
                  ...now,
                  noises: now.noises.filter((_, i) => i !== number),
                  arrangements: now.arrangements.map((a) => ({
                    ...a,
                    silenced: a.silenced.filter((name) => name !== there!.name),
                  })),
                }))
                onClose()
              }}
            >
              Forget it
            </Button>
          ) : (
            <span />
          )}
          <div className="flex gap-2">
            <Button onClick={onClose}>Cancel</Button>
            <Button look="main" disabled={trouble !== null} onClick={keep}>
              {number === null ? 'Note it' : 'Keep'}
            </Button>
          </div>
        </div>
      </div>
    </Sheet>
  )
}

const BY: Record<string, string> = {
  calibrated: 'by the calibrated chain',
  voice: 'by your take through the same chain',
  guessed: 'by a common gain, which is a guess',
}

/** A silence and what was found in it, each to be taken for this noise. */
function SilenceRow({
  id,
  said,
  onTake,
}: {
  id: string
  said: string
  onTake: (asked: { reading: string; finding: number | null }) => void
}) {
  const { data } = useQuery(roomQueries.reading(id))
  const noises = data?.result.form === 'tone' ? data.result.noises : []
  return (
    <li className="flex flex-wrap items-center gap-1.5 border-b border-line py-1 last:border-0">
      <span className="min-w-0 flex-1 text-small">{said}</span>
      <Button small look="quiet" onClick={() => onTake({ reading: id, finding: null })}>
        All of it
      </Button>
      {noises.slice(0, 3).map((n, i) => (
        <Button key={i} small look="quiet" onClick={() => onTake({ reading: id, finding: i })}>
          {n.kind} {n.f_hz.toFixed(0)} Hz
        </Button>
      ))}
    </li>
  )
}

const middleOf = (plan: readonly (readonly [number, number])[]): [number, number, number] => {
  const mean = (k: 0 | 1) => plan.reduce((sum, p) => sum + p[k], 0) / plan.length
  return [Math.round(mean(0) * 100) / 100, Math.round(mean(1) * 100) / 100, 0.8]
}

const FRESH: Schemas['NoiseDoc'] = {
  name: '',
  kind: 'outside',
  surface: 'wall-1',
  preset: null,
  at: null,
  octaves_db: { '63': 40, '125': 38, '250': 34, '500': 30, '1000': 26, '2000': 22, '4000': 16, '8000': 10 },
  hum_hz: null,
  hours: [],
  other_days: [],
  cycle: null,
}
