import { useMemo, useRef } from 'react'
import type { Edit, Forecast, RoomDoc, Treatment } from '../api/client'
import { asUsed } from '../state/as-used'
import { useCatalogue } from '../state/catalogue'
import { usePredicted } from '../state/forecast'
import { useRoom } from '../state/room'
import { lengthText, useUnits } from '../state/units'
import { Grip } from './grip'
import { isThere, type PointPx, type RectPx } from './geometry'
import { Hatches } from './hatches'
import { LabelText } from './label-text'
import { placeLabels } from './labels'
import { footprintOf } from './plan-shape'

type Face = Forecast['shape']['faces'][number]
type Patch = { surface: string; x_m: number; z_m: number; width_m: number; height_m: number }
type Row = { faces: Face[]; width: number; height: number }
const GAP_M = 0.35
const QUIETEST_DB = -36 // below the direct sound: nothing to hang anything for
const HEAD_PX = 26
const FOOT_PX = 26

const spanOf = (face: Face) => Math.max(...face.outline.map((p) => p[0])) - Math.min(...face.outline.map((p) => p[0]))
const cornerOf = (face: Face) => [0, 1].map((k) => Math.min(...face.outline.map((p) => p[k]!))) as [number, number]
const highOf = (face: Face) =>
  Math.max(...face.outline.map((p) => p[1])) - (face.kind === 'wall' ? 0 : cornerOf(face)[1])

/** Walls in as many rows as show them largest. */
export function rowsOf(faces: Face[], w: number, h: number): { rows: Row[]; pxPerM: number } {
  let best: { rows: Row[]; pxPerM: number } = { rows: [], pxPerM: 0 }
  for (let count = 1; count <= Math.min(4, faces.length); count += 1) {
    const total = faces.reduce((sum, f) => sum + spanOf(f) + GAP_M, 0) / count
    const rows: Row[] = []
    let row: Face[] = []
    let width = 0
    for (const face of faces) {
      if (row.length && width + spanOf(face) / 2 > total && rows.length < count - 1) {
        rows.push({ faces: row, width, height: 0 })
        row = []
        width = 0
      }
      row.push(face)
      width += spanOf(face) + GAP_M
    }
    if (row.length) rows.push({ faces: row, width, height: 0 })
    for (const r of rows) r.height = Math.max(...r.faces.map(highOf))
    const pxPerM = Math.min(
      (w - 40) / Math.max(...rows.map((r) => r.width)),
      (h - 10 - rows.length * (HEAD_PX + FOOT_PX)) / rows.reduce((sum, r) => sum + r.height, 0),
    )
    if (pxPerM > best.pxPerM) best = { rows, pxPerM }
  }
  return best
}

export type FaceKind = 'wall' | 'ceiling' | 'floor'

/** Each wall as seen from inside, side by side: for hanging things. What hangs can be dragged along its wall. */
export function WallsView({ w, h, kind = 'wall' }: { w: number; h: number; kind?: FaceKind }) {
  const { document: room, active, edit, drag } = useRoom()
  const document = asUsed(room, active)
  const predicted = usePredicted()
  const units = useUnits()
  const { materials, furnishings } = useCatalogue()
  const hatches = useMemo(() => Object.fromEntries(materials.map((m) => [m.key, m.hatch])), [materials])
  const kinds = Object.fromEntries(furnishings.map((k) => [k.key, k.name]))
  const faces = (predicted.active?.shape.faces ?? []).filter(
    (f) => f.kind === kind && (kind === 'wall' || Math.abs(f.normal[2]!) > 0.99),
  )
  const { rows, pxPerM } = rowsOf(faces, w, h)
  const first = predicted.active?.paths.filter((p) => p.order === 1 && p.level_db > QUIETEST_DB) ?? []
  const start = useRef<Treatment | null>(null)
  let top = 6
  const slide = (i: number, by: readonly [number, number], face: Face, from: Treatment): [Edit, Edit] => [
    { do: 'take-down', number: i },
    { do: 'hang', number: i, treatment: { ...from, ...slid(from, by, face, document) } },
  ]
  return (
    <svg
      viewBox={`0 0 ${w} ${h}`}
      width={w}
      height={h}
      role="group"
      aria-label={`Walls of ${document.name}, seen from inside`}
      data-testid="walls-view"
    >
      <Hatches />
      {rows.map((row, r) => {
        const y0 = top + HEAD_PX + row.height * pxPerM
        top = y0 + FOOT_PX
        let left = (w - (row.width - GAP_M) * pxPerM) / 2
        return (
          <g key={r}>
            <path
              d={`M${Math.max(left - 14, 4)} ${y0}H${Math.min(left + (row.width - GAP_M) * pxPerM + 14, w - 4)}`}
              stroke="var(--ink-2)"
              strokeWidth={2}
            />
            {row.faces.map((face) => {
              const x0 = left
              left += (spanOf(face) + GAP_M) * pxPerM
              const [u0, v0] = kind === 'wall' ? [0, 0] : cornerOf(face)
              const px = ([u, v]: readonly [number, number]) =>
                [x0 + (u - u0) * pxPerM, y0 - (v - v0) * pxPerM] as const
              const outline = `M${face.outline.map((p) => px(p).join(' ')).join('L')}Z`
              const rect = (p: Patch) => ({
                x: x0 + (p.x_m - u0) * pxPerM,
                y: y0 - (p.z_m - v0 + p.height_m) * pxPerM,
                width: p.width_m * pxPerM,
                height: p.height_m * pxPerM,
              })
              const on = <T extends { surface: string }>(list: readonly T[]) =>
                list.filter((t) => t.surface === face.name)
              const hatch = hatches[document.surfaces[face.name]?.material ?? ''] ?? 'solid'
              return (
                <g key={face.name}>
                  <path d={outline} fill="var(--floor)" />
                  <path d={outline} fill={`url(#hatch-${hatch}-0)`} opacity={0.4} />
                  <path d={outline} fill="none" stroke="var(--ink-2)" strokeWidth={1.4} strokeLinejoin="round" />
                  {(document.surfaces[face.name]?.regions ?? []).map((region, i) => {
                    const box = rect({ ...region, surface: face.name })
                    return (
                      <g key={i}>
                        <rect {...box} fill="var(--card)" />
                        <rect
                          {...box}
                          fill={`url(#hatch-${hatches[region.material ?? ''] ?? 'solid'}-0)`}
                          stroke="var(--line-strong)"
                        />
                        <Words
                          x={box.x + box.width / 2}
                          y={box.y + box.height / 2}
                          text={region.name}
                          room={box.width}
                        />
                      </g>
                    )
                  })}
                  {on(document.openings).map((o, i) => (
                    <Opening key={i} o={o} box={rect(o)} />
                  ))}
                  {kind === 'wall' ? (
                    <Standing document={document} face={face} px={px} pxPerM={pxPerM} kinds={kinds} />
                  ) : null}
                  {on(document.covers)
                    .filter(isThere)
                    .map((c, i) => (
                      <Cloth key={i} box={rect(c)} drawn={c.drawn} />
                    ))}
                  {active.treatments.map((t, i) =>
                    t.surface === face.name ? (
                      <g key={i}>
                        <Grip
                          label={`${t.label ?? t.kind} on ${face.name.replace('-', ' ')}: drag it, or move it with the arrow keys`}
                          toM={([x, y]) => [x / pxPerM, -y / pxPerM]}
                          onDrag={(by, going) => {
                            start.current ??= t
                            const edits = slide(i, by, face, start.current)
                            if (going) return drag(...edits)
                            start.current = null
                            edit(...edits)
                          }}
                          onNudge={(by) => edit(...slide(i, by, face, t))}
                        >
                          <Hung t={t} box={rect(t)} />
                        </Grip>
                        <HungWords
                          t={t}
                          box={rect(t)}
                          words={`${lengthText(t.width_m, units)} × ${lengthText(t.height_m, units)}`}
                          foot={lengthText(t.z_m, units)}
                        />
                      </g>
                    ) : null,
                  )}
                  <Rings
                    hits={first
                      .filter((p) => p.surfaces[0] === face.name)
                      .map((p) => ({ at: px(flat(face, p.points[0]!)), levelDb: p.level_db }))}
                    around={[
                      ...on(document.openings).map(rect),
                      ...on(document.covers).map(rect),
                      ...active.treatments.filter((t) => t.surface === face.name).map(rect),
                      ...(kind === 'wall' ? standingBoxes(document, face, px, pxPerM) : []),
                    ]}
                    page={{
                      x: x0 - GAP_M * pxPerM * 0.4,
                      y: y0 - highOf(face) * pxPerM,
                      w: (spanOf(face) + GAP_M * 0.8) * pxPerM,
                      h: highOf(face) * pxPerM,
                    }}
                  />
                  <text
                    x={x0 + (spanOf(face) * pxPerM) / 2}
                    y={y0 - highOf(face) * pxPerM - 8}
                    textAnchor="middle"
                    fontSize={13.5}
                    fontWeight={650}
                    style={{ fill: 'var(--ink)', fontFamily: 'var(--font-display)' }}
                  >
                    {spanOf(face) * pxPerM > 60 ? titled(face.name) : face.name.slice(5)}
                  </text>
                  {spanOf(face) * pxPerM > 44 ? (
                    <text
                      x={x0 + (spanOf(face) * pxPerM) / 2}
                      y={y0 + 16}
                      textAnchor="middle"
                      fontSize={12}
                      style={{ fill: 'var(--ink-2)' }}
                    >
                      {lengthText(spanOf(face), units)}
                    </text>
                  ) : null}
                </g>
              )
            })}
          </g>
        )
      })}
    </svg>
  )
}

/** Flat coordinates of a point in space on a wall: along it from its first corner, and up; on floors as on the plan. */
function flat(face: Face, p: readonly number[]): readonly [number, number] {
  if (face.kind !== 'wall') return [p[0]!, p[1]!]
  const [first, second] = face.corners
  const along = [second![0] - first![0], second![1] - first![1]]
  const long = Math.hypot(along[0]!, along[1]!)
  return [((p[0]! - first![0]) * along[0]! + (p[1]! - first![1]) * along[1]!) / long, p[2]!]
}

/** A patch slid along its wall, kept on it and, for panels, off doors and windows. */
export function slid<T extends Patch & { kind: string }>(
  t: T,
  by: readonly [number, number],
  face: Face,
  document: RoomDoc,
): { x_m: number; z_m: number } {
  const cm = (v: number) => Math.round(v * 100) / 100
  const x_m = cm(Math.min(Math.max(t.x_m + by[0], 0), Math.max(spanOf(face) - t.width_m, 0)))
  const z_m = cm(Math.min(Math.max(t.z_m + by[1], 0), Math.max(highOf(face) - t.height_m, 0)))
  const meets = document.openings.some(
    (o) =>
      o.surface === t.surface &&
      x_m < o.x_m + o.width_m &&
      x_m + t.width_m > o.x_m &&
      z_m < o.z_m + o.height_m &&
      z_m + t.height_m > o.z_m,
  )
  return t.kind === 'panel' && meets ? { x_m: t.x_m, z_m: t.z_m } : { x_m, z_m }
}

type Box = { x: number; y: number; width: number; height: number }

function Opening({ o, box }: { o: RoomDoc['openings'][number]; box: Box }) {
  const { x, y, width: w, height: h } = box
  return (
    <g fill="none" stroke="var(--ink-2)" strokeWidth={1.3}>
      <rect {...box} fill={o.state === 'open' ? 'var(--paper)' : 'var(--card)'} strokeWidth={1.8} />
      {o.kind === 'window' ? (
        <path d={`M${x + w / 2} ${y}v${h}M${x} ${y + h * 0.48}h${w}M${x - 4} ${y + h}h${w + 8}`} />
      ) : (
        <path
          d={`M${x + w * 0.14} ${y + h * 0.08}h${w * 0.72}v${h * 0.36}h${-w * 0.72}zM${x + w * 0.14} ${y + h * 0.54}h${w * 0.72}v${h * 0.38}h${-w * 0.72}z`}
          opacity={0.6}
        />
      )}
      {o.kind === 'door' ? (
        <circle cx={o.hinge === 'left' ? x + w - 6 : x + 6} cy={y + h * 0.5} r={2} fill="var(--ink-2)" />
      ) : null}
      {o.state !== 'shut' ? <Words x={x + w / 2} y={y + h / 2} text={o.state} room={w} /> : null}
    </g>
  )
}

function Cloth({ box, drawn }: { box: Box; drawn: boolean }) {
  const parts = drawn
    ? [box]
    : [
        { ...box, width: box.width * 0.14 },
        { ...box, x: box.x + box.width * 0.86, width: box.width * 0.14 },
      ]
  return (
    <g>
      {parts.map((b, i) => (
        <g key={i}>
          <rect {...b} fill="var(--felt)" opacity={0.16} />
          <path
            d={Array.from(
              { length: Math.max(Math.round(b.width / 7), 2) + 1 },
              (_, k, n = Math.max(Math.round(b.width / 7), 2)) =>
                `M${b.x + (b.width * k) / n} ${b.y}q3 ${b.height / 2} 0 ${b.height}`,
            ).join('')}
            fill="none"
            stroke="var(--felt)"
            strokeWidth={1}
            opacity={0.8}
          />
        </g>
      ))}
      <path
        d={`M${box.x - 5} ${box.y}H${box.x + box.width + 5}`}
        stroke="var(--ink-2)"
        strokeWidth={2.4}
        strokeLinecap="round"
      />
    </g>
  )
}

const Hung = ({ t, box }: { t: Treatment; box: Box }) => (
  <rect
    {...box}
    rx={3}
    fill="var(--felt)"
    opacity={t.kind === 'panel' ? 0.92 : 0.4}
    stroke="var(--felt)"
    strokeWidth={1.5}
  />
)

/** What is written on a piece: beside its grip, whose name says more. */
function HungWords({ t, box, words, foot }: { t: Treatment; box: Box; words: string; foot: string }) {
  return (
    <g pointerEvents="none">
      <Words
        x={box.x + box.width / 2}
        y={box.y + 14}
        text={t.label ?? t.kind}
        room={box.width}
        light={t.kind === 'panel'}
      />
      <Words x={box.x + box.width / 2} y={box.y + 30} text={words} room={box.width} light={t.kind === 'panel'} />
      {t.z_m > 0.02 ? (
        <g stroke="var(--line-strong)" strokeWidth={1}>
          <path
            d={`M${box.x + box.width / 2} ${box.y + box.height}v${(t.z_m * box.height) / t.height_m}`}
            strokeDasharray="3 3"
          />
          <text
            x={box.x + box.width / 2 + 4}
            y={box.y + box.height + 13}
            fontSize={11}
            stroke="var(--floor)"
            strokeWidth={3}
            paintOrder="stroke"
            style={{ fill: 'var(--ink-2)' }}
          >
            {foot} up
          </text>
        </g>
      ) : null}
    </g>
  )
}

function Words({
  x,
  y,
  text,
  room,
  light = false,
}: {
  x: number
  y: number
  text: string
  room: number
  light?: boolean
}) {
  if (!text || text.length * 6.8 > room) return null
  return (
    <text
      x={x}
      y={y + 4}
      textAnchor="middle"
      fontSize={11.5}
      fontWeight={600}
      style={{ fill: light ? 'var(--on-felt)' : 'var(--ink-2)' }}
      stroke="none"
      pointerEvents="none"
    >
      {text}
    </text>
  )
}

/** Furniture that stands against a wall, as a dashed outline before it. */
function Standing({
  document,
  face,
  px,
  pxPerM,
  kinds,
}: {
  document: RoomDoc
  face: Face
  px: (p: readonly [number, number]) => readonly [number, number]
  pxPerM: number
  kinds: Record<string, string>
}) {
  return (
    <g pointerEvents="none">
      {standingBoxes(document, face, px, pxPerM).map(({ name, x, y, width, height }, i) => {
        return (
          <g key={i}>
            <rect
              x={x}
              y={y}
              width={width}
              height={height}
              fill="var(--card)"
              fillOpacity={0.72}
              stroke="var(--ink-2)"
              strokeWidth={1.1}
              strokeDasharray="5 4"
              rx={3}
            />
            <Words x={x + width / 2} y={y + 14} text={kinds[name] ?? name} room={width} />
          </g>
        )
      })}
    </g>
  )
}

/** Outlines of what stands against a wall, as seen from inside. */
function standingBoxes(
  document: RoomDoc,
  face: Face,
  px: (p: readonly [number, number]) => readonly [number, number],
  pxPerM: number,
): (Box & { name: string })[] {
  const [first] = face.corners
  return document.furnishings.flatMap((f) => {
    const corners = footprintOf(f)
    const depth = corners.map((c) => (c[0] - first![0]) * face.normal[0] + (c[1] - first![1]) * face.normal[1])
    if (Math.min(...depth) > 0.35 || Math.min(...depth) < -0.25) return []
    const along = corners.map((c) => flat(face, [c[0], c[1], 0])[0])
    const [low, high] = [Math.max(Math.min(...along), 0), Math.min(Math.max(...along), spanOf(face))]
    if (high - low < 0.05) return []
    const tall = f.size_m?.[2] ?? 1
    const [x, y] = px([low, tall])
    return [{ name: f.kind, x, y, width: (high - low) * pxPerM, height: tall * pxPerM }]
  })
}

type RingsProps = { hits: { at: PointPx; levelDb: number }[]; around: Box[]; page: RectPx }

/** Rings where sound lands, with how loud it comes back from there; the figures beside what is drawn. */
function Rings({ hits, around, page }: RingsProps) {
  const labels = placeLabels(
    hits.map(({ at, levelDb }, i) => ({
      key: String(i),
      text: `${levelDb.toFixed(0).replace('-', '−')} dB`,
      at,
      size: 11.5,
      weight: levelDb,
    })),
    [
      ...around.map((b) => ({ x: b.x, y: b.y, w: b.width, h: b.height })),
      ...hits.map(({ at: [x, y] }) => ({ x: x - 6, y: y - 6, w: 12, h: 12 })),
    ],
    page,
  )
  return (
    <g pointerEvents="none">
      {hits.map(({ at }, i) => (
        <circle key={i} cx={at[0]} cy={at[1]} r={5} fill="var(--card)" stroke="var(--bounce)" strokeWidth={2} />
      ))}
      {labels.map((label) => (
        <LabelText key={label.key} label={label} colour="var(--bounce)" halo="var(--floor)" />
      ))}
    </g>
  )
}

const titled = (name: string) => `${name[0]!.toUpperCase()}${name.slice(1).replace('-', ' ')}`
