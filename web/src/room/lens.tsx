import { type PointerEvent, type ReactNode, type SVGProps, useEffect, useRef, useState, type WheelEvent } from 'react'
import { clamp, type PlanView, type PointPx, type RectPx } from './geometry'

type Lens = { times: number; by: PointPx }
const WHOLE: Lens = { times: 1, by: [0, 0] }
const MOST = 8
const STEP = 1.3
const PAN_PX = 60
const TYPING = 'input, textarea, select, [role=listbox], [role=dialog], [role=menu], [role=radio], [role=slider]'

/** How near the drawing is looked at: by wheel, buttons, + and −, Alt with arrows, dragging the paper; 0 fits it again. */
export function useLens(w: number, h: number, isOn = true) {
  const [lens, setLens] = useState(WHOLE)
  const grabbed = useRef<{ at: PointPx; from: Lens } | null>(null)
  const near = (factor: number, [x, y]: PointPx = [w / 2, h / 2]) =>
    setLens((now) => {
      const times = clamp(now.times * factor, 1, MOST)
      if (times === 1) return WHOLE
      const share = times / now.times
      // what lies under the pointer stays there
      return { times, by: [x - (x - now.by[0]) * share, y - (y - now.by[1]) * share] }
    })
  const pan = (dx: number, dy: number) =>
    setLens((now) => (now.times === 1 ? now : { ...now, by: [now.by[0] + dx, now.by[1] + dy] }))

  const isNear = lens.times > 1
  const acts = useRef({ near, pan, isNear })
  acts.current = { near, pan, isNear }
  useEffect(() => {
    if (!isOn) return
    // by what the key writes, not by where it lies: plus has another place on every keyboard
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || (event.target instanceof Element && event.target.closest(TYPING))) return
      const { near: look, pan: move, isNear: panned } = acts.current
      if (event.altKey && !panned) return // then it is the browser's own way back
      const act = event.altKey
        ? {
            ArrowLeft: () => move(PAN_PX, 0),
            ArrowRight: () => move(-PAN_PX, 0),
            ArrowUp: () => move(0, PAN_PX),
            ArrowDown: () => move(0, -PAN_PX),
          }[event.key]
        : { '+': () => look(STEP), '-': () => look(1 / STEP), '0': () => setLens(WHOLE) }[event.key]
      if (!act) return
      event.preventDefault()
      event.stopPropagation()
      act()
    }
    addEventListener('keydown', onKey, { capture: true })
    return () => removeEventListener('keydown', onKey, { capture: true })
  }, [isOn])

  const at = (event: { clientX: number; clientY: number; currentTarget: Element }): PointPx => {
    const box = event.currentTarget.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
  /** Whether a press there takes hold of the paper and of nothing that lies on it. */
  const pans = (target: EventTarget) => isNear && !(target as Element).closest('[role=button], [data-turn]')
  const props: SVGProps<SVGSVGElement> = !isOn
    ? {}
    : {
        onWheel: (event: WheelEvent<SVGSVGElement>) => near(event.deltaY < 0 ? 1.12 : 1 / 1.12, at(event)),
        onPointerDown: (event: PointerEvent<SVGSVGElement>) => {
          if (!pans(event.target)) return
          grabbed.current = { at: at(event), from: lens }
        },
        onPointerMove: (event: PointerEvent<SVGSVGElement>) => {
          const hold = grabbed.current
          if (!hold) return
          const [x, y] = at(event)
          setLens({ ...hold.from, by: [hold.from.by[0] + x - hold.at[0], hold.from.by[1] + y - hold.at[1]] })
        },
        onPointerLeave: () => (grabbed.current = null),
      }
  const box: RectPx = { x: w - 108, y: h - 40, w: 108, h: 40 }
  const buttons: ReactNode = (
    <g transform={`translate(${w - 100} ${h - 34})`} data-testid="lens">
      <Press at={0} label="Look from further away" disabled={lens.times === 1} onPress={() => near(1 / STEP)}>
        <path d="M-5 0H5" />
      </Press>
      <Press at={33} label="Look nearer" disabled={lens.times === MOST} onPress={() => near(STEP)}>
        <path d="M-5 0H5M0 -5V5" />
      </Press>
      <Press at={66} label="Fit the room" disabled={lens.times === 1} onPress={() => setLens(WHOLE)}>
        <path d="M-5.5 -2.5V-5.5H-2.5M5.5 -2.5V-5.5H2.5M-5.5 2.5V5.5H-2.5M5.5 2.5V5.5H2.5" />
      </Press>
    </g>
  )
  return {
    props,
    box,
    buttons,
    /** The fitted view, looked at through the lens. */
    through: (fitting: PlanView): PlanView => ({
      originPx: [fitting.originPx[0] * lens.times + lens.by[0], fitting.originPx[1] * lens.times + lens.by[1]],
      pxPerM: fitting.pxPerM * lens.times,
    }),
    pans,
    release: () => (grabbed.current = null),
  }
}

type PressProps = { at: number; label: string; disabled: boolean; onPress: () => void; children: ReactNode }

function Press({ at, label, disabled, onPress, children }: PressProps) {
  return (
    <g
      transform={`translate(${at + 14} 14)`}
      role="button"
      tabIndex={disabled ? -1 : 0}
      aria-label={label}
      aria-disabled={disabled}
      style={{ cursor: disabled ? 'default' : 'pointer' }}
      opacity={disabled ? 0.45 : 1}
      onClick={() => !disabled && onPress()}
      onKeyDown={(e) => {
        if (disabled || (e.key !== 'Enter' && e.key !== ' ')) return
        e.preventDefault()
        onPress()
      }}
    >
      <title>{label}</title>
      <circle r="14" fill="var(--card)" stroke="var(--line-strong)" />
      <g stroke="var(--ink)" strokeWidth="1.8" fill="none" strokeLinecap="round">
        {children}
      </g>
    </g>
  )
}
