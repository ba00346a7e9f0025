import { useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useState } from 'react'
import { Link, Navigate, useNavigate, useParams } from 'react-router-dom'
import { inWords, type Job, type ReadingSummary } from '../api/client'
import { roomQueries, stopJob } from '../api/queries'
import { MarksColumn, MarksRow } from '../marks/marks-column'
import { Drawing } from '../room/drawing'
import { LAYERS } from '../room/layers/layers'
import type { Spot } from '../room/reading-spots'
import { SectionView } from '../room/section-view'
import { WallsView } from '../room/walls-view'
import { ForecastProvider, usePredicted } from '../state/forecast'
import { RoomProvider, useRoom } from '../state/room'
import { useWide } from '../state/wide'
import { STEPS } from '../steps/list'
import { Rail } from '../steps/rail'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'
import { Segmented } from '../ui/segmented'
import { Sized } from '../ui/sized'
import { Whole } from '../ui/whole'
import { DeskProvider, useDesk, type View } from './desk'
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
        Unrolling the drawing…
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

function Closed({ error }: { error: Error }) {
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

const VIEWS: readonly { key: View; name: string; says: string }[] = [
  { key: 'plan', name: 'Floor', says: 'Drag the marks, or use the arrow keys.' },
  { key: 'walls', name: 'Walls', says: 'Each wall as you see it from inside.' },
  { key: 'section', name: 'Section', says: 'Cut upright through the performer.' },
  { key: 'solid', name: 'Model', says: 'The room to turn in your hand.' },
]

function Desk() {
  const { id } = useRoom()
  const wide = useWide()
  const { working } = usePredicted()
  const { step, reading } = useDesk()
  const [help, setHelp] = useState(false)
  const navigate = useNavigate()
  useKeys({ onHelp: () => setHelp(true), onStep: (i) => STEPS[i] && void navigate(`/rooms/${id}/${STEPS[i].key}`) })
  return (
    <div className="flex h-dvh flex-col max-lg:h-auto max-lg:min-h-dvh">
      <Header onHelp={() => setHelp(true)} />
      <SavingTrouble />
      <div className="grid min-h-0 flex-1 grid-cols-[136px_minmax(0,1fr)_346px] max-lg:flex max-lg:flex-col">
        <Rail />
        <main className="flex min-h-0 flex-col gap-2 pr-3 pb-3 max-lg:contents">
          <Tools />
          <div className="relative min-h-56 flex-1 max-lg:order-1 max-lg:h-[300px] max-lg:flex-none">
            <Whole what="The drawing" again={id}>
              <Sheet />
            </Whole>
            {working ? <Working job={working} /> : null}
          </div>
          <div className="rounded-2xl border border-line bg-card px-4 pt-2.5 pb-1 lg:h-[290px] lg:overflow-y-auto max-lg:order-4 max-lg:mx-3 max-lg:mb-4">
            <Whole what="This" again={`${step.key} ${reading}`}>
              <step.Stage key={step.key} />
            </Whole>
          </div>
        </main>
        {wide ? null : (
          <div className="order-2 px-3 py-2">
            <MarksRow />
          </div>
        )}
        <aside
          className="min-h-0 overflow-y-auto border-l border-line bg-card px-5 pt-2 pb-6 max-lg:order-3 max-lg:mx-3 max-lg:mb-3 max-lg:rounded-2xl max-lg:border"
          tabIndex={0}
          aria-label="Marks and step"
        >
          {wide ? (
            <Whole what="The marks" again={id}>
              <MarksColumn />
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
      </div>
      <Shortcuts open={help} onClose={() => setHelp(false)} />
    </div>
  )
}

/** How the room is seen, what lies on it, and a line that says so. */
function Tools() {
  const { view, setView, layer, setLayer } = useDesk()
  const shown = VIEWS.find((v) => v.key === view)!
  const says = view === 'walls' || (view !== 'plan' && layer.key === 'bare') ? shown.says : layer.says
  return (
    <div className="flex min-h-12 flex-wrap items-center justify-between gap-2 pt-3 max-lg:order-1 max-lg:px-3 max-lg:pt-1">
      <div className="flex flex-wrap items-center gap-2">
        <Segmented small label="How the room is seen" value={view} options={VIEWS} onChange={setView} />
        {view === 'walls' ? null : (
          <Segmented small label="What lies on the drawing" value={layer.key} options={LAYERS} onChange={setLayer} />
        )}
      </div>
      {layer.Tools ? <layer.Tools /> : <p className="text-[0.84rem] text-ink-2 max-lg:hidden">{says}</p>}
    </div>
  )
}

const SolidView = lazy(() => import('../room/solid/solid-view'))

/** The room in the chosen view. */
function Sheet() {
  const { id } = useRoom()
  const { step, view, layer } = useDesk()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  switch (view) {
    case 'plan':
      return <Drawing layer={layer} shapes={step.shapes ?? false} spots={step.spots ? spotsOf(readings) : []} />
    case 'walls':
      return <Sized>{(w, h) => <WallsView w={w} h={h} />}</Sized>
    case 'section':
      return <Sized>{(w, h) => <SectionView w={w} h={h} />}</Sized>
    case 'solid':
      return (
        <Suspense
          fallback={
            <p className="p-8 text-ink-2" role="status">
              Building the model…
            </p>
          }
        >
          <SolidView />
        </Suspense>
      )
  }
}

/** Distinct places of the microphone, to the nearest 5 cm, with how many readings each. */
function spotsOf(readings: readonly ReadingSummary[]): Spot[] {
  const spots = new Map<string, Spot>()
  for (const { mic_at: at, form } of readings) {
    if (form === 'broken') continue // nobody knows where it was taken
    const key = `${Math.round(at[0] * 20)},${Math.round(at[1] * 20)}`
    spots.set(key, { at: [at[0], at[1]], count: (spots.get(key)?.count ?? 0) + 1 })
  }
  return [...spots.values()]
}

function Working({ job }: { job: Job }) {
  return (
    <div
      role="status"
      className="absolute bottom-3 left-1/2 z-10 flex -translate-x-1/2 items-center gap-3 rounded-full border border-line bg-card px-4 py-1.5 shadow-card"
    >
      <span className="text-[0.9rem] whitespace-nowrap">{job.what}…</span>
      <progress value={job.progress} max={1} className="h-2 w-28 accent-[var(--felt)]" aria-label="Progress" />
      <Button small look="quiet" onClick={() => void stopJob(job.id)}>
        Stop
      </Button>
    </div>
  )
}
