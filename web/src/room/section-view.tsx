import { useRef, useState } from 'react'
import type { Arrangement, Edit } from '../api/client'
import { useDesk } from '../rooms/use-desk'
import { asUsed } from '../state/as-used'
import { useCatalogue } from '../state/catalogue'
import { useRoom } from '../state/room'
import { lengthText, useUnits } from '../state/units'
import { Segmented } from '../ui/segmented'
import { extentOf } from './geometry'
import { Grip } from './grip'
import { Hatches } from './hatches'
import { ceilingAt, footprintOf, highestOf, inside, type Plan } from './plan-shape'

const AXES = [
  { key: 'x', name: 'Along the length' },
  { key: 'y', name: 'Along the width' },
] as const
const STEPS = 160
type Who = 'performer' | 'microphone'

/** The room cut upright through the performer: floor, ceiling, heights. Marks can be raised and lowered. */
export function SectionView({ w, h }: { w: number; h: number }) {
  const { document: room, active, edit, drag } = useRoom()
  const document = asUsed(room, active)
  const { layer } = useDesk()
  const units = useUnits()
  const [along, setAlong] = useState<'x' | 'y'>(document.shape.ceiling.along ?? 'x')
  const start = useRef<Arrangement | null>(null)
  const { furnishings } = useCatalogue()
  const [a, o] = along === 'x' ? ([0, 1] as const) : ([1, 0] as const)
  const e = extentOf(document)
  const [low, high] = along === 'x' ? [e.minX, e.maxX] : [e.minY, e.maxY]
  const top = highestOf(document.shape.ceiling)
  const pxPerM = Math.max(Math.min((w - 130) / (high - low), (h - 120) / top), 10)
  const left = (w - (high - low) * pxPerM) / 2
  const floor = (h + top * pxPerM) / 2 + 4
  const px = ([u, z]: readonly [number, number]) => [left + (u - low) * pxPerM, floor - z * pxPerM] as const
  const cut = active.performer.at[o]
  const place = (u: number): readonly [number, number] => (along === 'x' ? [u, cut] : [cut, u])
  const plan = document.shape.plan as Plan
  const runs: [number, number][][] = []
  for (let i = 0; i <= STEPS; i += 1) {
    const u = low + ((high - low) * Math.min(Math.max(i, 0.02), STEPS - 0.02)) / STEPS
    if (!inside(plan, place(u))) continue
    const point: [number, number] = [u, ceilingAt(document.shape.ceiling, place(u))]
    const run = runs[runs.length - 1]
    if (run && u - run[run.length - 1]![0] < (1.5 * (high - low)) / STEPS) run.push(point)
    else runs.push([point])
  }
  const raised = (who: Who, from: Arrangement, by: number): Edit => {
    const at = from[who].at
    const limit = ceilingAt(document.shape.ceiling, [at[0], at[1]]) - 0.06
    const z = Math.round(Math.min(Math.max(at[2] + by, 0.06), limit) * 100) / 100
    const turn_deg = who === 'performer' ? from.performer.faces_deg : from.microphone.aims_deg
    return { do: 'place', who, at: [at[0], at[1], z], turn_deg, tilt_deg: from.microphone.tilt_deg }
  }
  const [mouth, mic] = [
    px([active.performer.at[a], active.performer.at[2]]),
    px([active.microphone.at[a], active.microphone.at[2]]),
  ]
  const upper = mouth[1] <= mic[1] ? 'performer' : 'microphone'
  return (
    <div className="absolute inset-0">
      <div className="absolute top-0 right-0 z-10">
        <Segmented small label="Cut" value={along} options={AXES} onChange={setAlong} />
      </div>
      <svg
        viewBox={`0 0 ${w} ${h}`}
        width={w}
        height={h}
        role="group"
        aria-label={`Section of ${document.name} through the performer`}
        data-testid="section-view"
      >
        <Hatches />
        {runs.map((run, i) => {
          const inner = `M${px([run[0]![0], 0]).join(' ')}L${run.map((p) => px(p).join(' ')).join('L')}L${px([run[run.length - 1]![0], 0]).join(' ')}Z`
          return (
            <g key={i}>
              <path d={inner} fill="none" stroke="var(--wall)" strokeWidth={26} strokeLinejoin="miter" />
              <path d={inner} fill="none" stroke="url(#hatch-solid-0)" strokeWidth={26} strokeLinejoin="miter" />
              <path d={inner} fill="var(--floor)" stroke="var(--line-strong)" strokeWidth={1.2} />
              <path
                d={`M${px([run[0]![0], 0]).join(' ')}H${px([run[run.length - 1]![0], 0])[0]}`}
                stroke="var(--ink-2)"
                strokeWidth={2}
              />
              {[run[0]!, run.reduce((m, p) => (p[1] > m[1] ? p : m))].map((p, k) => {
                const q = px(p)
                const x = k === 0 ? q[0] - 22 : px(run[run.length - 1]!)[0] + 26
                return k === 1 && Math.abs(p[1] - run[0]![1]) < 0.02 ? null : (
                  <g key={k} stroke="var(--line-strong)" strokeWidth={1.1}>
                    {k ? <path d={`M${q[0] + 16} ${q[1]}H${x}`} strokeDasharray="3 4" /> : null}
                    <path d={`M${x} ${floor}V${q[1]}M${x - 4} ${floor}h8M${x - 4} ${q[1]}h8`} />
                    <text
                      x={x - 6}
                      y={(floor + q[1]) / 2}
                      textAnchor="middle"
                      fontSize={12.5}
                      fontWeight={600}
                      stroke="var(--paper)"
                      strokeWidth={5}
                      paintOrder="stroke"
                      style={{ fill: 'var(--ink-2)' }}
                      transform={`rotate(-90 ${x - 6} ${(floor + q[1]) / 2})`}
                    >
                      {lengthText(p[1], units)}
                    </text>
                  </g>
                )
              })}
              <text
                x={(px(run[0]!)[0] + px(run[run.length - 1]!)[0]) / 2}
                y={floor + 34}
                textAnchor="middle"
                fontSize={13}
                fontWeight={600}
                style={{ fill: 'var(--ink-2)' }}
              >
                {lengthText(run[run.length - 1]![0] - run[0]![0], units)}
              </text>
            </g>
          )
        })}
        {document.furnishings.map((f, i) => {
          const u = footprintOf(f).map((c) => c[a])
          const tall = f.size_m?.[2] ?? 1
          const [x, y] = px([Math.min(...u), tall])
          const wide = (Math.max(...u) - Math.min(...u)) * pxPerM
          return (
            <g key={i}>
              <rect
                x={x}
                y={y}
                width={wide}
                height={tall * pxPerM}
                rx={3}
                fill="var(--card)"
                fillOpacity={0.7}
                stroke="var(--ink-2)"
                strokeWidth={1.1}
                strokeDasharray="5 4"
              />
              {wide > 50 ? (
                <text x={x + wide / 2} y={floor - 9} textAnchor="middle" fontSize={12} style={{ fill: 'var(--ink-2)' }}>
                  {furnishings.find((k) => k.key === f.kind)?.name ?? f.kind}
                </text>
              ) : null}
            </g>
          )
        })}
        {layer.Section ? <layer.Section along={along} px={px} pxPerM={pxPerM} /> : null}
        <path d={`M${mouth.join(' ')}L${mic.join(' ')}`} stroke="var(--ink)" strokeWidth={2} />
        {(['performer', 'microphone'] as const).map((who) => {
          const [x, y] = who === 'performer' ? mouth : mic
          const colour = who === 'performer' ? 'var(--change)' : 'var(--mic)'
          return (
            <Grip
              key={who}
              label={`${who === 'performer' ? 'Mouth' : 'Capsule'} height ${lengthText(active[who].at[2], units)}: drag up or down, or use the arrow keys`}
              toM={([, v]) => [0, -v / pxPerM]}
              cursor="ns-resize"
              onDrag={(by, going) => {
                start.current ??= active
                const place = raised(who, start.current, by[1])
                if (going) return drag(place)
                start.current = null
                edit(place)
              }}
              onNudge={(by) => edit(raised(who, active, by[1]))}
            >
              <path d={`M${x} ${y}V${floor}`} stroke={colour} strokeWidth={1.2} strokeDasharray="3 4" />
              <circle cx={x} cy={y} r={18} fill="transparent" />
              <g
                stroke={colour}
                strokeWidth={6}
                transform={`translate(${x} ${y}) rotate(${who === 'performer' ? 41 : 4})`}
              >
                <path d="M-10 0H10M0 -10V10" />
              </g>
              <text
                x={x}
                y={who === upper ? y - 18 : y + 28}
                textAnchor="middle"
                fontSize={14}
                fontWeight={650}
                stroke="var(--floor)"
                strokeWidth={4}
                paintOrder="stroke"
                style={{ fill: colour, fontFamily: 'var(--font-display)' }}
              >
                {who === 'performer' ? 'mouth' : 'mic'} {lengthText(active[who].at[2], units)}
              </text>
            </Grip>
          )
        })}
      </svg>
    </div>
  )
}
