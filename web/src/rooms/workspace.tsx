import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, Navigate, useNavigate, useParams } from 'react-router-dom'
import { inWords } from '../api/client'
import { roomQueries } from '../api/queries'
import { Felts, MarksBand } from '../marks/marks-band'
import { MarksColumn, MarksRow } from '../marks/marks-column'
import { Learnt } from '../listen/learnt'
import { Measuring } from '../listen/measuring'
import { Hatches } from '../room/hatches'
import { ForecastProvider, usePredicted } from '../state/forecast'
import { RoomProvider, useRoom } from '../state/room'
import { useWide } from '../state/wide'
import { STEPS } from '../steps/list'
import { Rail } from '../steps/rail'
import { Notice } from '../ui/notice'
import { Whole } from '../ui/whole'
import { DeskProvider } from './desk'
import { useDesk } from './use-desk'
import { Header } from './header'
import { SavingTrouble } from './saving-trouble'
import { Shortcuts } from './shortcuts'
import { useKeys } from './use-keys'

/** A room at one of its steps. It opens once all is here that its columns are laid out by, so that nothing moves. */
export function Workspace() {
  const { roomId = '', step: key } = useParams()
  const room = useQuery(roomQueries.room(roomId))
  const catalogue = useQuery(roomQueries.catalogue())
  const readings = useQuery(roomQueries.readings(roomId))
  const binned = useQuery(roomQueries.binnedReadings(roomId))
  const measured = useQuery(roomQueries.measured(roomId))
  const asked = [room, catalogue, readings, binned, measured]
  const step = STEPS.find((s) => s.key === key)
  if (!step) return <Navigate to={`/rooms/${roomId}/marks`} replace />
  const refused = asked.find((q) => q.isError)
  if (refused?.error && !(room.data && catalogue.data)) return <Closed error={refused.error} />
  if (!room.data || asked.some((q) => q.isPending))
    return (
      <p className="p-10 text-ink-2" role="status">
        Unrolling the drawing
      </p>
    )
  return (
    <RoomProvider key={roomId} room={room.data}>
      <ForecastProvider>
        <DeskProvider step={step}>
          <Desk />
        </DeskProvider>
      </ForecastProvider>
    </RoomProvider>
  )
}

function Closed({ error }: { error: unknown }) {
  const { title, cure } = inWords(error)
  return (
    <main className="mx-auto max-w-lg p-8">
      <h1 className="mb-2 text-xl">This room cannot be opened</h1>
      <Notice tone="stop" title={title} body={cure} />
      <Link to="/" className="font-semibold underline">
        All rooms
      </Link>
    </main>
  )
}

function Desk() {
  const { id } = useRoom()
  const wide = useWide()
  const { step, reading } = useDesk()
  const { active, trouble } = usePredicted()
  const [help, setHelp] = useState(false)
  const navigate = useNavigate()
  useKeys({ onHelp: () => setHelp(true), onStep: (i) => STEPS[i] && void navigate(`/rooms/${id}/${STEPS[i].key}`) })
  return (
    <div className="flex h-dvh flex-col max-lg:h-auto max-lg:min-h-dvh">
      <Header onHelp={() => setHelp(true)} />
      <SavingTrouble />
      <div className="grid min-h-0 flex-1 grid-cols-[136px_minmax(0,1fr)_346px] max-lg:flex max-lg:flex-col">
        <Rail />
        <main className="flex min-h-0 flex-col gap-2 overflow-y-auto pr-3 pb-3 max-lg:overflow-visible max-lg:px-3">
          {step.strings === 'row' || !wide ? (
            <Whole what="The marks" again={id}>
              {wide ? <MarksBand /> : null}
            </Whole>
          ) : null}
          <Whole what="This" again={`${step.key} ${reading}`}>
            <Learnt />
            <step.Stage key={step.key} />
          </Whole>
        </main>
        {/* on a phone it lies under the stage, which grows when the forecast is here: it comes with it, not before */}
        {wide || active || trouble ? (
          <aside
            className="min-h-0 overflow-y-auto border-l border-line bg-card px-5 pt-2 pb-6 max-lg:mx-3 max-lg:mb-3 max-lg:rounded-2xl max-lg:border"
            tabIndex={0}
            aria-label="Marks and step"
          >
            {wide ? (
              <Whole what="The marks" again={id}>
                {step.strings === 'column' ? <MarksColumn /> : step.strings === 'felts' ? <Felts /> : null}
              </Whole>
            ) : null}
            <div className="pt-2">
              <Whole what="This step" again={step.key}>
                <step.Side key={step.key} />
              </Whole>
            </div>
            {wide ? null : (
              <div className="mt-4 border-t border-line pt-2">
                <MarksColumn />
              </div>
            )}
          </aside>
        ) : null}
        {wide ? null : (
          <div className="sticky bottom-0 z-20 mt-auto border-t border-line bg-paper px-3 pt-1 print:hidden">
            <MarksRow />
          </div>
        )}
      </div>
      <svg width="0" height="0" aria-hidden className="absolute">
        <Hatches />
      </svg>
      <Measuring />
      <Shortcuts open={help} onClose={() => setHelp(false)} />
    </div>
  )
}
