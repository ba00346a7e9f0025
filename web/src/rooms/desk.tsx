import { createContext, type ReactNode, useContext, useMemo, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router-dom'
import type { Forecast } from '../api/client'
import { LAYERS } from '../room/layers/layers'
import type { Layer } from '../room/layers/layer'
import type { FaceKind } from '../room/walls-view'
import { isView, type View } from '../room/views'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import type { Step } from '../steps/step'

type Mode = Forecast['modes'][number]

type Desk = {
  step: Step
  view: View
  setView: (view: View) => void
  layer: Layer
  setLayer: (key: string) => void
  /** The note that is painted, of those that are heard. */
  mode: Mode | null
  heard: readonly Mode[]
  paint: (hz: number) => void
  /** Whether the swell is painted at the height of the ears instead of the microphone. */
  atEars: boolean
  setAtEars: (on: boolean) => void
  /** Which surfaces lie unfolded. */
  side: FaceKind
  setSide: (side: FaceKind) => void
  wall: number | null
  setWall: (wall: number | null) => void
  /** The reading that is open, the kind that is being taken, whether the table lies open: parts of the address. */
  reading: string | null
  open: (readingId: string, replace?: boolean) => void
  taking: string | null
  take: (kind: string) => void
  /** The reading that was just taken for this step, until it was seen. */
  learnt: string | null
  learn: (readingId: string | null) => void
  table: boolean
  openTable: () => void
  /** Back to the step itself. */
  close: () => void
}

const Context = createContext<Desk | null>(null)

export function useDesk(): Desk {
  const value = useContext(Context)
  if (!value) throw new Error('useDesk must be used inside <DeskProvider>')
  return value
}

/** Where one is in a room, kept in the address: a reload and the back button land there. */
export function DeskProvider({ step, children }: { step: Step; children: ReactNode }) {
  const { id } = useRoom()
  const { active } = usePredicted()
  const { '*': rest = '' } = useParams()
  const [search, setSearch] = useSearchParams()
  const navigate = useNavigate()
  const [wall, setWall] = useState<number | null>(null)
  const [atEars, setAtEars] = useState(false)
  const [side, setSide] = useState<FaceKind>('wall')
  const [learnt, learn] = useState<string | null>(null)

  const value = useMemo<Desk>(() => {
    const [part, what] = rest.split('/')
    const at = search.size ? `?${search.toString()}` : ''
    const go = (path: string, replace = false) => void navigate(`/rooms/${id}/${step.key}${path}${at}`, { replace })
    const put = (parts: Record<string, string>) =>
      setSearch((now) => new URLSearchParams({ ...Object.fromEntries(now), ...parts }), { replace: true })
    const layerKey = search.get('layer') ?? step.layer
    const heard = (active?.modes ?? []).filter((m) => m.is_heard)
    const hz = Number(search.get('note') ?? NaN)
    const view = search.get('view')
    return {
      step,
      view: isView(view) ? view : (step.view ?? 'plan'),
      setView: (to) => put({ view: to }),
      layer: LAYERS.find((l) => l.key === layerKey) ?? LAYERS[0]!,
      setLayer: (key) => put({ layer: key }),
      heard,
      mode:
        heard.find((m) => Math.abs(m.f_hz - hz) < 0.8) ??
        heard.find((m) => active && Math.abs(m.f_hz - active.marks.boom.note_hz) < 0.8) ??
        heard[0] ??
        null,
      paint: (f) => put({ note: f.toFixed(1), layer: 'swell' }),
      atEars,
      setAtEars,
      side,
      setSide,
      wall,
      setWall,
      reading: part === 'reading' && what ? what : null,
      open: (readingId, replace) => go(`/reading/${readingId}`, replace),
      taking: part === 'take' && what ? what : null,
      take: (kind) => go(`/take/${kind}`),
      learnt,
      learn,
      table: part === 'table',
      openTable: () => go('/table'),
      close: () => go('', true),
    }
  }, [active, atEars, learnt, side, id, navigate, rest, search, setSearch, step, wall])

  return <Context value={value}>{children}</Context>
}
