import { useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useEffect, useState } from 'react'
import { Link, Navigate, useNavigate, useParams } from 'react-router-dom'
import { inWords, type ReadingSummary } from '../api/client'
import { roomQueries, stopJob, type Working as WorkingJob } from '../api/queries'
import { MarksColumn, MarksRow } from '../marks/marks-column'
import { Drawing, type Layer, type Spot } from '../room/drawing'
import { SectionView } from '../room/section-view'
import { softAt } from '../room/soft-at'
import { WallsView } from '../room/walls-view'
import { ForecastProvider, usePredicted } from '../state/forecast'
import { useWide } from '../state/wide'
import { arrangementsOf, RoomProvider, TRYING, useRoom } from '../state/room'
import { Bench } from '../steps/bench'
import { BriefPanel } from '../steps/brief'
import { HushPanel } from '../steps/hush'
import { LedgerPanel } from '../steps/ledger'
import { ListenPanel } from '../steps/listen'
import { MarksPanel } from '../steps/marks'
import { Rail } from '../steps/rail'
import { STEPS, type StepKey } from '../steps/steps'
import { TakePanel } from '../steps/take'
import { TapePanel } from '../steps/tape/tape'
import { TreatPanel } from '../steps/treat'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'
import { Segmented } from '../ui/segmented'
import { Sized } from '../ui/sized'
import { Header } from './header'
import { Shortcuts } from './shortcuts'

export function Workspace() {
  const { roomId = '', step } = useParams()
  const room = useQuery(roomQueries.room(roomId))
  if (!STEPS.some((s) => s.key === step)) return <Navigate to={`/rooms/${roomId}/marks`} replace />
  if (room.isPending)
    return (
      <p className="p-10 text-ink-2" role="status">
        Unrolling the drawing…
      </p>
    )
  if (room.isError) {
    const { title, cure } = inWords(room.error)
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
  return (
    <RoomProvider key={roomId} room={room.data}>
      <ForecastProvider>
        <Desk step={step as StepKey} />
      </ForecastProvider>
    </RoomProvider>
  )
}

const SolidView = lazy(() => import('../room/solid-view'))

type View = 'plan' | 'walls' | 'section' | 'solid'
const VIEWS: readonly { key: View; name: string }[] = [
  { key: 'plan', name: 'Floor' },
  { key: 'walls', name: 'Walls' },
  { key: 'section', name: 'Section' },
  { key: 'solid', name: 'Model' },
]
const LAYERS: readonly { key: Layer; name: string }[] = [
  { key: 'paths', name: 'Paths' },
  { key: 'swell', name: 'Swell' },
  { key: 'flutter', name: 'Flutter' },
  { key: 'bare', name: 'Bare' },
]

function Desk({ step }: { step: StepKey }) {
  const { id, active: arrangement, change } = useRoom()
  const wide = useWide()
  const { active, working } = usePredicted()
  const [view, setView] = useState<View>('plan')
  const [picked, setLayer] = useState<Layer | null>(null)
  // with a tape in hand the plan itself is what is handled; paths would lie in the way until they are asked for
  const layer = picked ?? (step === 'tape' ? 'bare' : 'paths')
  const [wall, setWall] = useState<number | null>(null)
  const [modeHz, setModeHz] = useState<number | null>(null)
  const [atEars, setAtEars] = useState(false)
  const swellHeightM = atEars && arrangement.listener ? arrangement.listener.at[2] : null
  const [reading, setReading] = useState<string | null>(null)
  const [help, setHelp] = useState(false)
  const navigate = useNavigate()
  useKeys({ onHelp: () => setHelp(true), onStep: (i) => STEPS[i] && void navigate(`/rooms/${id}/${STEPS[i].key}`) })

  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const spots = step === 'listen' || step === 'ledger' ? spotsOf(readings) : []
  const heard = (active?.modes ?? []).filter((m) => m.heard_db > -14)
  const mode =
    heard.find((m) => modeHz !== null && Math.abs(m.f_hz - modeHz) < 0.8) ??
    heard.find((m) => active && Math.abs(m.f_hz - active.marks.boom.note_hz) < 0.8) ??
    heard[0] ??
    null
  const shift = (by: number) => {
    const i = heard.findIndex((m) => m === mode)
    const next = heard[Math.min(Math.max(i + by, 0), heard.length - 1)]
    if (next) setModeHz(next.f_hz)
  }

  return (
    <div className="flex h-dvh flex-col max-lg:h-auto max-lg:min-h-dvh">
      <Header onHelp={() => setHelp(true)} />
      <SavingTrouble />
      <div className="grid min-h-0 flex-1 grid-cols-[136px_minmax(0,1fr)_346px] max-lg:flex max-lg:flex-col">
        <Rail />
        <main className="flex min-h-0 flex-col gap-2 pr-3 pb-3 max-lg:contents">
          <div className="flex flex-wrap items-center justify-between gap-2 pt-3 max-lg:order-1 max-lg:px-3 max-lg:pt-1">
            <div className="flex flex-wrap items-center gap-2">
              <Segmented small label="How the room is seen" value={view} options={VIEWS} onChange={setView} />
              {view === 'walls' ? null : (
                <Segmented small label="What lies on the drawing" value={layer} options={LAYERS} onChange={setLayer} />
              )}
            </div>
            {layer === 'swell' && mode ? (
              <div className="flex items-center gap-1 text-[0.9rem]">
                {arrangement.listener && view !== 'section' ? (
                  <Button
                    small
                    look="quiet"
                    onClick={() => setAtEars(!atEars)}
                    aria-label={`Painted at ${atEars ? 'ear' : 'mic'} height; change to ${atEars ? 'mic' : 'ear'} height`}
                  >
                    at {atEars ? 'ear' : 'mic'} height
                  </Button>
                ) : null}
                <Button small look="quiet" onClick={() => shift(-1)} aria-label="Lower note">
                  ‹
                </Button>
                <span className="min-w-44 text-center">
                  <strong className="font-display">{mode.note}</strong>{' '}
                  <span className="text-ink-2">
                    {mode.f_hz.toFixed(0)} Hz, rings {mode.t60_s.toFixed(2)} s
                  </span>
                </span>
                <Button small look="quiet" onClick={() => shift(1)} aria-label="Higher note">
                  ›
                </Button>
              </div>
            ) : (
              <p className="text-[0.84rem] text-ink-2 max-lg:hidden">
                {view === 'walls' || (view !== 'plan' && layer === 'bare') ? VIEW_WORDS[view] : LAYER_WORDS[layer]}
              </p>
            )}
          </div>
          <div className="relative min-h-56 flex-1 max-lg:order-1 max-lg:h-[300px] max-lg:flex-none">
            {view === 'plan' ? (
              <Drawing
                layer={layer}
                mode={mode}
                editing={step === 'tape'}
                wall={wall}
                onWall={setWall}
                swellHeightM={swellHeightM}
                spots={spots}
                onHit={(path) => change('try something soft there', (now) => softAt(now, path))}
              />
            ) : view === 'solid' ? (
              <Suspense
                fallback={
                  <p className="p-8 text-ink-2" role="status">
                    Building the model…
                  </p>
                }
              >
                <SolidView layer={layer} mode={mode} swellHeightM={swellHeightM} />
              </Suspense>
            ) : (
              <Sized>
                {(w, h) =>
                  view === 'walls' ? <WallsView w={w} h={h} /> : <SectionView w={w} h={h} layer={layer} mode={mode} />
                }
              </Sized>
            )}
            {working ? <Working job={working} /> : null}
          </div>
          <div className="rounded-2xl border border-line bg-card px-4 pt-2.5 pb-1 lg:h-[290px] lg:overflow-y-auto max-lg:order-4 max-lg:mx-3 max-lg:mb-4">
            <Bench
              step={step}
              readingId={reading}
              modeHz={mode?.f_hz ?? null}
              onMode={(f) => {
                setModeHz(f)
                setLayer('swell')
              }}
            />
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
          {wide ? <MarksColumn /> : null}
          <div className="pt-2">
            <Panel step={step} reading={reading} onReading={setReading} wall={wall} onWall={setWall} />
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

/** Distinct places of the microphone, to the nearest 5 cm, with how many readings each. */
function spotsOf(readings: readonly ReadingSummary[]): Spot[] {
  const spots = new Map<string, Spot>()
  for (const { mic_at: at } of readings) {
    const key = `${Math.round(at[0] * 20)},${Math.round(at[1] * 20)}`
    spots.set(key, { at: [at[0], at[1]], count: (spots.get(key)?.count ?? 0) + 1 })
  }
  return [...spots.values()]
}

const LAYER_WORDS: Record<Layer, string> = {
  paths: 'How your voice reaches the mic: weight is loudness.',
  swell: 'Where one note is strong, at mic height.',
  flutter: 'Hard walls that throw a clap to and fro.',
  bare: 'Drag the marks, or use the arrow keys.',
}

const VIEW_WORDS: Record<View, string> = {
  plan: LAYER_WORDS.bare,
  walls: 'Each wall as you see it from inside.',
  section: 'Cut upright through the performer.',
  solid: 'The room to turn in your hand.',
}

function Panel({
  step,
  reading,
  onReading,
  wall,
  onWall,
}: {
  step: StepKey
  reading: string | null
  onReading: (id: string) => void
  wall: number | null
  onWall: (wall: number | null) => void
}) {
  switch (step) {
    case 'brief':
      return <BriefPanel />
    case 'tape':
      return <TapePanel chosen={wall} onChoose={onWall} />
    case 'listen':
      return <ListenPanel chosen={reading} onChoose={onReading} />
    case 'marks':
      return <MarksPanel />
    case 'treat':
      return <TreatPanel />
    case 'hush':
      return <HushPanel />
    case 'take':
      return <TakePanel chosen={reading} onChoose={onReading} />
    case 'ledger':
      return <LedgerPanel />
  }
}

/** Background work that the marks wait for, with its progress and a way to stop it. */
function Working({ job }: { job: WorkingJob }) {
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

function useKeys({ onHelp, onStep }: { onHelp: () => void; onStep: (index: number) => void }) {
  const { undo, redo, trying, change } = useRoom()
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement
      if (target.closest('input:not([type=checkbox]), textarea, select, [role=listbox], [role=dialog], [role=menu]'))
        return
      const command = event.metaKey || event.ctrlKey
      if (command && event.key.toLowerCase() === 'z') {
        event.preventDefault()
        if (event.shiftKey) redo()
        else undo()
      } else if (command && event.key.toLowerCase() === 'y') {
        event.preventDefault()
        redo()
      } else if (command || event.altKey) return
      else if (event.key === '?') onHelp()
      else if (/^[1-9]$/.test(event.key)) onStep(Number(event.key) - 1)
      else if (event.key === 'Escape' && trying)
        change('stop trying', (now) => ({ ...now, arrangements: arrangementsOf(now).filter((a) => a.id !== TRYING) }))
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [change, onHelp, onStep, redo, trying, undo])
}

/** A save that failed or met another window's: said plainly, with neither side lost. */
function SavingTrouble() {
  const { saving, keepMine, takeTheirs, flush } = useRoom()
  if (saving.state === 'failed')
    return (
      <div className="px-4">
        <Notice
          tone="stop"
          title={`Not saved: ${saving.title}`}
          body={`${saving.cure} Your change is still on this page.`}
        >
          <Button small className="mt-1.5" onClick={() => void flush()}>
            Save again
          </Button>
        </Notice>
      </div>
    )
  if (saving.state !== 'conflict') return null
  return (
    <div className="px-4" data-testid="conflict">
      <Notice
        tone="stop"
        title="This room was changed in another window."
        body="Both versions are safe: the other is saved, yours is on this page. Which one should stand? Undo brings the other one back."
      >
        <div className="mt-1.5 flex gap-2">
          <Button small look="warm" onClick={() => void keepMine()}>
            Keep what I see here
          </Button>
          <Button small onClick={() => void takeTheirs()}>
            Take the other window’s
          </Button>
        </div>
      </Notice>
    </div>
  )
}
