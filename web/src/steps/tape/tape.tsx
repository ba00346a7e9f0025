import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { roomQueries } from '../../api/queries'
import { PredictedStage } from '../../bench/predicted-stage'
import { extentOf } from '../../room/geometry'
import { BenchCard } from '../../rooms/bench-card'
import { Board } from '../../rooms/board'
import { useDesk } from '../../rooms/use-desk'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { lengthText, useUnits } from '../../state/units'
import { Button } from '../../ui/button'
import { NumberField, TextField } from '../../ui/fields'
import { Group } from '../../ui/group'
import { Notice } from '../../ui/notice'
import { Covers } from './covers'
import { Furnishings } from './furnishings'
import { Openings } from './openings'
import { CeilingFields, Square, WallLengths } from './shape'
import { Surfaces } from './surfaces'

/** The drawing with its taped lengths; what it does to sound only when asked. */
export function TapeStage() {
  const { document } = useRoom()
  const { active } = usePredicted()
  const units = useUnits()
  const [open, setOpen] = useState(false)
  const e = extentOf(document)
  return (
    <>
      <Board
        question="What is the room like?"
        answer={
          active
            ? `${lengthText(e.maxX - e.minX, units)} × ${lengthText(e.maxY - e.minY, units)}, up to ${lengthText(active.shape.highest_m, units)} high: ${active.shape.volume_m3.toFixed(active.shape.volume_m3 < 10 ? 1 : 0)} m³ of air. As it is drawn it hangs on for ${active.decay_middle.value_s.toFixed(2)} s.`
            : ''
        }
      />
      <div className="flex items-center justify-between">
        <p className="text-small text-ink-2 max-lg:hidden">
          Walls, corners and furniture are handles: drag them, or type lengths.
        </p>
        <Button small aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Put the plots away' : 'What it does to sound'}
        </Button>
      </div>
      {open ? (
        <BenchCard className="shrink-0">
          <PredictedStage formulas />
        </BenchCard>
      ) : null}
    </>
  )
}

/** The room as the tape has it: shape first, then what it is made of and what stands in it. */
export function TapeSide() {
  const { document, change } = useRoom()
  const { wall: chosen, setWall: onChoose } = useDesk()
  const { active } = usePredicted()
  const { data: catalogue } = useQuery(roomQueries.catalogue())
  const shape = active?.shape
  return (
    <div className="space-y-3">
      <h2 className="text-head">The room, by tape</h2>
      <div className="grid grid-cols-2 gap-2">
        <TextField
          label="Name"
          value={document.name}
          onChange={(name) => name.trim() && change('name', (now) => ({ ...now, name }))}
        />
        <TextField
          label="Project"
          value={document.project}
          onChange={(project) => change('project', (now) => ({ ...now, project }))}
        />
      </div>
      {document.guessed ? (
        <Notice tone="care" title="These sizes are a guess." body="Every figure carries a wider ± until you tape it.">
          <Button small className="mt-1" onClick={() => change('taped', (now) => ({ ...now, guessed: false }))}>
            I have taped it
          </Button>
        </Notice>
      ) : null}
      <WallLengths chosen={chosen} onChoose={onChoose} />
      <CeilingFields />
      {shape ? (
        <p className="text-small text-ink-2">
          Floor {shape.floor_area_m2.toFixed(1)} m², volume {shape.volume_m3.toFixed(1)} m³, all surfaces{' '}
          {shape.surface_area_m2.toFixed(1)} m².
          {active?.in_voice_range
            ? ` So small that its first swell, near ${active.first_mode_hz.toFixed(0)} Hz, lies among the notes of a voice.`
            : ''}
        </p>
      ) : null}
      <Square />
      <Group title="Surfaces" open>
        <Surfaces />
      </Group>
      <Group title={`Doors and windows (${document.openings.length})`}>
        <Openings />
      </Group>
      <Group title={`Curtains, rugs, blankets (${document.covers.length})`}>
        <Covers />
      </Group>
      <Group title={`Furniture and people (${document.furnishings.length})`}>
        <Furnishings kinds={catalogue?.furnishings ?? []} />
      </Group>
      <Group title="Air">
        <div className="grid grid-cols-2 gap-2">
          <NumberField
            label="Temperature"
            unit="°C"
            value={document.air.temperature_c}
            low={-10}
            high={45}
            onChange={(temperature_c) =>
              change('temperature', (now) => ({ ...now, air: { ...now.air, temperature_c } }))
            }
          />
          <NumberField
            label="Humidity"
            unit="%"
            value={document.air.humidity_pct}
            low={5}
            high={100}
            onChange={(humidity_pct) => change('humidity', (now) => ({ ...now, air: { ...now.air, humidity_pct } }))}
          />
        </div>
      </Group>
    </div>
  )
}
