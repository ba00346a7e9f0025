import { useMemo, useRef, useState } from 'react'
import { createPortal } from 'react-dom'
import type { Schemas } from '../api/client'
import { nameOfNote } from '../plots/notes'

type SwellMap = Schemas['SwellAnswer']

/** Pressure of every mode over a plane, unpacked: byte k of mode i is at i * nx * ny + k; -128 is outside the room. */
export function unpacked(map: SwellMap): Int8Array {
  const raw = atob(map.values)
  const bytes = new Int8Array(raw.length)
  for (let i = 0; i < raw.length; i += 1) bytes[i] = (raw.charCodeAt(i) << 24) >> 24
  return bytes
}

type Props = {
  map: SwellMap
  /** Frequency of the mode to paint. */
  fHz: number
  /** Metres in the plane to CSS pixels on the sheet. */
  toPx: (at: readonly [number, number]) => readonly [number, number]
  pxPerM: number
}

/** The swell of one mode over a plane: dots as large as the pressure, hollow where it runs the other way. A pointer reads all modes. */
export function Swell({ map, fHz, toPx, pxPerM }: Props) {
  const bytes = useMemo(() => unpacked(map), [map])
  const layer = useRef<SVGGElement>(null)
  const [cell, setCell] = useState<{ i: number; j: number } | null>(null)
  const cells = map.nx * map.ny
  const mode = map.f_hz.reduce((best, f, i) => (Math.abs(f - fHz) < Math.abs(map.f_hz[best]! - fHz) ? i : best), 0)
  const place = (i: number, j: number) => toPx([map.start_m[0] + i * map.step_m[0], map.start_m[1] + j * map.step_m[1]])
  const size = Math.min(...map.step_m) * pxPerM
  const dots = []
  for (let j = 0; j < map.ny; j += 1)
    for (let i = 0; i < map.nx; i += 1) {
      const value = bytes[mode * cells + j * map.nx + i]!
      if (value === -128) continue
      const r = Math.sqrt(Math.abs(value) / 127) * size * 0.5
      const [x, y] = place(i, j)
      if (r > 0.5)
        dots.push(
          value > 0 ? (
            <circle key={`${i},${j}`} cx={x} cy={y} r={r} fill="var(--boom)" />
          ) : (
            <circle
              key={`${i},${j}`}
              cx={x}
              cy={y}
              r={Math.max(r - 0.7, 0.4)}
              fill="none"
              stroke="var(--boom)"
              strokeWidth={1.4}
            />
          ),
        )
    }
  const [x0, y0] = place(-0.5, map.ny - 0.5)
  const [x1, y1] = place(map.nx - 0.5, -0.5)
  const here = cell && bytes[cell.j * map.nx + cell.i] !== -128 ? cell : null
  const read = here ? strongest(map, bytes, here.j * map.nx + here.i) : []
  const at = here ? place(here.i, here.j) : null
  const host = layer.current?.ownerSVGElement?.parentElement ?? null
  return (
    <g ref={layer}>
      <g opacity={0.5} pointerEvents="none">
        {dots}
      </g>
      <rect
        x={x0}
        y={y0}
        width={Math.max(x1 - x0, 0)}
        height={Math.max(y1 - y0, 0)}
        fill="transparent"
        onPointerMove={(event) => {
          const svg = event.currentTarget.ownerSVGElement!
          const box = svg.getBoundingClientRect()
          const k = svg.viewBox.baseVal.width / box.width
          const [px, py] = [(event.clientX - box.left) * k, (event.clientY - box.top) * k]
          const i = Math.floor(((px - x0) / (x1 - x0)) * map.nx)
          const j = Math.floor(((y1 - py) / (y1 - y0)) * map.ny)
          setCell(i >= 0 && j >= 0 && i < map.nx && j < map.ny ? { i, j } : null)
        }}
        onPointerLeave={() => setCell(null)}
      />
      {at && read.length ? (
        <circle
          cx={at[0]}
          cy={at[1]}
          r={size * 0.7}
          fill="none"
          stroke="var(--ink)"
          strokeWidth={1.5}
          pointerEvents="none"
        />
      ) : null}
      {host && read.length ? createPortal(<Readout read={read} />, host) : null}
    </g>
  )
}

/** Beside the room, where no mark lies over it: the modes that press most at the pointer, against their own strongest spot. */
function Readout({ read }: { read: { f: number; share: number }[] }) {
  return (
    <div
      role="status"
      className="pointer-events-none absolute top-1 left-1 rounded-xl border border-line bg-card px-3 py-1.5 text-fine shadow-card"
      data-testid="pointer-reading"
    >
      <p className="text-ink-2">
        Under the pointer,
        <br />
        of each note’s most
      </p>
      {read.map(({ f, share }) => (
        <p key={f} className="flex justify-between gap-3">
          <span>
            {nameOfNote(f)} {f.toFixed(0)} Hz
          </span>
          <strong>{Math.abs(share * 100).toFixed(0)} %</strong>
        </p>
      ))}
    </div>
  )
}

/** The modes that press most at a cell. */
function strongest(map: SwellMap, bytes: Int8Array, cell: number): { f: number; share: number }[] {
  const cells = map.nx * map.ny
  return map.f_hz
    .map((f, i) => ({ f, share: bytes[i * cells + cell]! / 127 }))
    .sort((a, b) => Math.abs(b.share) - Math.abs(a.share))
    .slice(0, 8)
    .sort((a, b) => a.f - b.f)
}
