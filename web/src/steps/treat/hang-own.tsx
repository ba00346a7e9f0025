import { useState } from 'react'
import type { Treatment } from '../../api/client'
import { freeOnWall, type OnWall } from '../../room/floor'
import { extentOf } from '../../room/geometry'
import { useFurnishingKinds } from '../../state/catalogue'
import { ceilingAt, lengthOf, type Plan } from '../../room/plan-shape'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { LengthField, TextField } from '../../ui/fields'
import { Caution } from '../../ui/notice'
import { Select } from '../../ui/select'
import { type Made, MaterialButton } from '../tape/material-picker'
import { useFits } from '../tape/openings'
import type { PieceKind } from './pieces'

/** Something of one's own, hung or laid where it is told. */
export function HangOwn({ piece, onClose }: { piece: PieceKind; onClose: () => void }) {
  const { document, active, edit } = useRoom()
  const kinds = useFurnishingKinds()
  const fits = useFits()
  const plan = document.shape.plan as Plan
  const e = extentOf(document)
  const [made, setMade] = useState<Made>(piece.made)
  const [t, setT] = useState<Treatment>(() => {
    const start: Treatment = {
      kind: 'panel',
      surface: 'wall-1',
      label: 'My panel',
      x_m: 0.3,
      z_m: 0.8,
      width_m: 0.6,
      height_m: 1.2,
      ...(piece.start.surface === 'floor' ? { x_m: (e.minX + e.maxX) / 2 - 0.7, z_m: (e.minY + e.maxY) / 2 - 1 } : {}),
      ...piece.start,
    }
    return piece.start.surface
      ? start
      : (placedOnAWall(start, fits, (size) => freeOnWall(document, active, kinds, size)) ?? start)
  })
  const onWall = t.surface.startsWith('wall-')
  const set = (part: Partial<Treatment>) => setT((now) => ({ ...now, ...part }))
  const move = (surface: string) => {
    if (!surface.startsWith('wall-'))
      return set({
        surface,
        kind: surface === 'floor' ? 'rug' : 'panel',
        x_m: (e.minX + e.maxX - t.width_m) / 2,
        z_m: (e.minY + e.maxY - t.height_m) / 2,
      })
    const i = Number(surface.slice(5)) - 1
    const width_m = Math.min(t.width_m, lengthOf(plan, i))
    const high = Math.min(
      ceilingAt(document.shape.ceiling, plan[i]!),
      ceilingAt(document.shape.ceiling, plan[(i + 1) % plan.length]!),
    )
    const height_m = Math.min(t.height_m, high)
    return set({
      surface,
      kind: 'panel',
      width_m,
      height_m,
      x_m: Math.max((lengthOf(plan, i) - width_m) / 2, 0),
      z_m: Math.max(Math.min(0.8, high - height_m), 0),
    })
  }
  const trouble = onWall ? fits(t, {}) : null
  const surfaces = [
    ...plan.map((_, i) => ({ key: `wall-${i + 1}`, name: `Wall ${i + 1}` })),
    { key: 'ceiling', name: 'Ceiling' },
    { key: 'floor', name: 'Floor' },
  ]
  const hang = () => {
    edit({ do: 'hang', treatment: { ...t, ...made } })
    onClose()
  }
  return (
    <Sheet open onClose={onClose} title={piece.name} wide>
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField label="What do you call it?" value={t.label ?? ''} onChange={(label) => set({ label })} />
        <MaterialButton label="What it is" made={made} onChange={setMade} />
        <Select
          label="On"
          value={t.surface}
          options={
            document.shape.ceiling.kind === 'flat' && !document.shape.ceiling.drops?.length
              ? surfaces
              : surfaces.filter((s) => s.key !== 'ceiling')
          }
          onChange={move}
        />
        <div className="grid grid-cols-2 gap-2">
          <LengthField
            label={onWall ? "From the wall's first corner" : 'From the left'}
            metres={onWall ? t.x_m : t.x_m - e.minX}
            onChange={(m) => set({ x_m: onWall ? m : m + e.minX })}
          />
          <LengthField
            label={onWall ? 'Above the floor' : 'From the bottom'}
            metres={onWall ? t.z_m : t.z_m - e.minY}
            onChange={(m) => set({ z_m: onWall ? m : m + e.minY })}
          />
          <LengthField label="Wide" metres={t.width_m} onChange={(width_m) => set({ width_m })} />
          <LengthField
            label={onWall ? 'High' : 'Deep'}
            metres={t.height_m}
            onChange={(height_m) => set({ height_m })}
          />
        </div>
      </div>
      <div className="mt-3 space-y-1.5">
        {trouble ? (
          <p role="alert" className="text-small font-semibold text-bounce">
            {trouble}
          </p>
        ) : null}
        {piece.cautions.map((text) => (
          <Caution key={text} text={text} />
        ))}
        <Caution
          text={
            t.surface === 'ceiling'
              ? 'Weight overhead: fix into joists with rated hooks and a second safety wire, never above where people sleep, or ask a tradesperson. Old textured coatings may hold asbestos: do not drill those.'
              : t.surface === 'floor'
                ? 'Lay a non-slip mat below, and no edge where feet or stands catch.'
                : 'Before drilling, look for cables and pipes, and ask the landlord. Wool: gloves, mask, eyes. Keep off heaters, lamps and candles, and leave doors, vents and ways out free.'
          }
        />
      </div>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Not now</Button>
        <Button look="main" disabled={trouble !== null} onClick={hang}>
          Hang it
        </Button>
      </div>
    </Sheet>
  )
}

/** On the wall that has room for it, smaller where none does; null where a wall holds nothing of it. */
function placedOnAWall(
  start: Treatment,
  fits: (piece: Treatment, part: Partial<Treatment>) => string | null,
  free: (size: Pick<OnWall, 'z_m' | 'width_m' | 'height_m'>) => Pick<OnWall, 'surface' | 'x_m'> | null,
): Treatment | null {
  for (const share of [1, 0.8, 0.6, 0.4])
    for (const z_m of new Set([start.z_m, 1.2, 0.2, 0])) {
      const width_m = Math.round(start.width_m * share * 100) / 100
      const height_m = Math.round(start.height_m * share * 100) / 100
      const found = free({ z_m, width_m, height_m })
      if (!found) continue
      const placed = { ...start, z_m, width_m, height_m, ...found }
      if (fits(placed, {}) === null) return placed
    }
  return null
}
