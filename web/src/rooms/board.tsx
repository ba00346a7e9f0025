import { useQuery } from '@tanstack/react-query'
import { lazy, type ReactNode, Suspense, useState } from 'react'
import type { Job, ReadingSummary } from '../api/client'
import { roomQueries } from '../api/queries'
import { stopJob } from '../api/waiting'
import { Drawing } from '../room/drawing'
import { LAYERS } from '../room/layers/layers'
import type { Spot } from '../room/reading-spots'
import { StepAside } from '../room/step-aside'
import { SectionView } from '../room/section-view'
import { type View, VIEWS } from '../room/views'
import { WallsView } from '../room/walls-view'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Segmented } from '../ui/segmented'
import { Sized } from '../ui/sized'
import { Whole } from '../ui/whole'
import { useDesk } from './use-desk'
import { Head } from './head'

/** The room as drawn, as large as its place, with how it is seen and what lies on it over it. */
type BoardProps = { question: string; answer: ReactNode; className?: string; views?: readonly View[] }

export function Board({ question, answer, className = 'min-h-64 flex-1', views }: BoardProps) {
  const { id } = useRoom()
  const { working } = usePredicted()
  const { layer, view } = useDesk()
  const [full, setFull] = useState(false)
  return (
    <>
      <Head question={question} answer={answer} tools={<Looks views={views} />} />
      {layer.Tools ? <layer.Tools /> : null}
      <div
        className={
          full ? 'fixed inset-0 z-30 bg-paper' : `stage-drawing relative max-lg:h-[300px] max-lg:flex-none ${className}`
        }
      >
        <Whole what="The drawing" again={id}>
          <Sheet />
        </Whole>
        {view === 'plan' ? <StepAside /> : null}
        {working ? <Working job={working} /> : null}
        <Button
          small
          className="absolute bottom-1 left-1 bg-card lg:hidden"
          aria-pressed={full}
          onClick={() => setFull(!full)}
        >
          {full ? 'Back' : 'Full screen'}
        </Button>
      </div>
    </>
  )
}

const SIDES = [
  { key: 'wall', name: 'All round' },
  { key: 'ceiling', name: 'Above' },
  { key: 'floor', name: 'Below' },
] as const

/** How the room is seen, and what lies on it. */
function Looks({ views }: { views?: readonly View[] | undefined }) {
  const { view, setView, layer, setLayer, side, setSide } = useDesk()
  const offered = views ? VIEWS.filter((v) => views.includes(v.key)) : VIEWS
  return (
    <div className="flex flex-wrap items-center gap-2">
      <Segmented small label="How the room is seen" value={view} options={offered} onChange={setView} />
      {view === 'walls' ? (
        <Segmented small label="Which surfaces" value={side} options={SIDES} onChange={setSide} />
      ) : (
        <Segmented small label="What lies on the drawing" value={layer.key} options={LAYERS} onChange={setLayer} />
      )}
    </div>
  )
}

const SolidView = lazy(() => import('../room/solid/solid-view'))

/** The room in the chosen view. */
function Sheet() {
  const { id } = useRoom()
  const { step, view, layer, side } = useDesk()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  switch (view) {
    case 'plan':
      return <Drawing layer={layer} shapes={step.shapes ?? false} spots={step.spots ? spotsOf(readings) : []} />
    case 'walls':
      return <Sized>{(w, h) => <WallsView w={w} h={h} kind={side} />}</Sized>
    case 'section':
      return <Sized>{(w, h) => <SectionView w={w} h={h} />}</Sized>
    case 'solid':
      return (
        <Suspense
          fallback={
            <p className="p-8 text-ink-2" role="status">
              Building the model
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
      <span className="text-note whitespace-nowrap">{job.what}</span>
      <progress value={job.progress} max={1} className="h-2 w-28 accent-[var(--felt)]" aria-label="Progress" />
      <Button small look="quiet" onClick={() => void stopJob(job.id)}>
        Stop
      </Button>
    </div>
  )
}
