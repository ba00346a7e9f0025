import type { Arrangement, RoomDoc } from '../../api/client'
import { extentOf, onWall, type PointM, wallsOf } from '../../room/geometry'

const SIZE = 200

/** A thumb-nail of a room with one arrangement: walls in ink, what hangs in felt, who stands where. */
export function MiniPlan({ document, arrangement }: { document: RoomDoc; arrangement: Arrangement }) {
  const e = extentOf(document)
  const [w, h] = [e.maxX - e.minX, e.maxY - e.minY]
  const scale = (SIZE - 16) / Math.max(w, h)
  const px = ([x, y]: PointM) => [8 + (x - e.minX) * scale, 8 + (e.maxY - y) * scale] as const
  const walls = new Map(wallsOf(document).map((wall) => [wall.name, wall]))
  const at = (m: { at: readonly number[] }) => px([m.at[0]!, m.at[1]!])
  const line = (from: PointM, to: PointM) => `M${px(from).join(' ')}L${px(to).join(' ')}`
  return (
    <svg
      viewBox={`0 0 ${w * scale + 16} ${h * scale + 16}`}
      className="max-h-40 w-full"
      role="img"
      aria-label={`${arrangement.name || arrangement.id}: ${arrangement.treatments.length} pieces hang, ${arrangement.screens.length} screens stand`}
    >
      <path
        d={`M${document.shape.plan.map((p) => px([p[0], p[1]]).join(' ')).join('L')}Z`}
        fill="var(--floor)"
        stroke="var(--ink)"
        strokeWidth={3}
      />
      {arrangement.treatments.map((t, i) => {
        const wall = walls.get(t.surface)
        if (!wall) {
          const [x, y] = px([t.x_m, t.z_m + t.height_m])
          return (
            <rect
              key={i}
              x={x}
              y={y}
              width={t.width_m * scale}
              height={t.height_m * scale}
              fill="var(--felt)"
              opacity={0.25}
            />
          )
        }
        return (
          <path
            key={i}
            d={line(onWall(wall, t.x_m, 0.06), onWall(wall, t.x_m + t.width_m, 0.06))}
            stroke="var(--felt)"
            strokeWidth={5}
          />
        )
      })}
      {arrangement.screens.map((s, i) => {
        const along = ((s.faces_deg + 90) * Math.PI) / 180
        const half: PointM = [(Math.cos(along) * s.width_m) / 2, (Math.sin(along) * s.width_m) / 2]
        return (
          <path
            key={i}
            d={line([s.at[0] - half[0], s.at[1] - half[1]], [s.at[0] + half[0], s.at[1] + half[1]])}
            stroke="var(--felt)"
            strokeWidth={3}
            strokeDasharray="4 2"
          />
        )
      })}
      <circle cx={at(arrangement.microphone)[0]} cy={at(arrangement.microphone)[1]} r={4} fill="var(--mic)" />
      <circle cx={at(arrangement.performer)[0]} cy={at(arrangement.performer)[1]} r={5} fill="var(--change)" />
    </svg>
  )
}
