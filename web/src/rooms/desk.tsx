import { type ReactNode, useMemo, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router-dom'
import { LAYERS } from '../room/layers/layers'
import type { FaceKind } from '../room/walls-view'
import { isView } from '../room/views'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import type { Step } from '../steps/step'
import { type Desk, DeskContext } from './use-desk'

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

  return <DeskContext value={value}>{children}</DeskContext>
}
