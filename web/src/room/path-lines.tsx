import type { Forecast } from '../api/client'
import { type PlanView, type PointM, type PointPx, type RectPx, toPx } from './geometry'
import { LabelText } from './label-text'
import { alongLine, placeLabels, type Wish } from './labels'

const SHOWN = 6
const QUIETEST_DB = -34

type Path = Forecast['paths'][number]

/** The paths worth drawing: single reflections and the strongest doubles, loudest last so that they lie on top. */
export function pathsToShow(paths: readonly Path[]): Path[] {
  const loud = paths.filter((p) => p.level_db > QUIETEST_DB)
  const single = loud.filter((p) => p.order === 1).sort((a, b) => b.level_db - a.level_db)
  return single.slice(0, SHOWN).reverse()
}

type Props = {
  paths: readonly Path[]
  performer: PointM
  mic: PointM
  view: PlanView
  obstacles: RectPx[]
  /** Where labels may stand. */
  page: RectPx
  onHit?: (path: Path) => void
}

/** Pencil lines whose weight is their level, with the hit point ringed and labelled. */
export function PathLines({ paths, performer, mic, view, obstacles, page, onHit }: Props) {
  const shown = pathsToShow(paths)
  const from = toPx(performer, view)
  const to = toPx(mic, view)
  const drawn = shown.map((path) => ({ path, hits: path.points.map((p) => toPx([p[0], p[1]], view)) }))
  const flat = (path: Path) => path.surfaces.every((s) => s === 'floor' || s.startsWith('ceiling'))
  const labels = placeLabels(
    drawn.map(({ path, hits }): Wish => ({
      key: path.surfaces.join('+'),
      text: `${flat(path) ? `${path.surfaces[0]!.replace(/-.*/, '')} ` : ''}${path.delay_ms.toFixed(1)} ms ${path.level_db.toFixed(0).replace('-', '−')} dB`,
      at: hits[0]!,
      size: 12.5,
      weight: path.level_db,
    })),
    [...obstacles, ...drawn.flatMap(({ hits }) => hits.map(([x, y]) => ({ x: x - 7, y: y - 7, w: 14, h: 14 })))],
    page,
    drawn.flatMap(({ hits }) => alongLine([from, ...hits, to])),
  )
  return (
    <g>
      <path d={`M${from.join(' ')}L${to.join(' ')}`} stroke="var(--ink)" strokeWidth={2} />
      {drawn.map(({ path, hits }) => (
        <path
          key={path.surfaces.join('+')}
          data-return={path.surfaces.join('+')}
          d={`M${[from, ...hits, to].map((p) => p.join(' ')).join('L')}`}
          fill="none"
          stroke="var(--bounce)"
          strokeOpacity={0.78}
          strokeWidth={weight(path.level_db)}
          strokeLinejoin="round"
        />
      ))}
      {drawn.map(({ path, hits }) => (
        <Hit
          key={path.surfaces.join('+')}
          at={hits[0]!}
          hollow={flat(path)}
          label={`${path.where}: ${path.delay_ms.toFixed(1)} ms, ${path.level_db.toFixed(0)} dB. Try something soft there.`}
          onClick={onHit ? () => onHit(path) : undefined}
        />
      ))}
      {labels.map((label) => (
        <LabelText key={label.key} label={label} colour="var(--bounce)" />
      ))}
    </g>
  )
}

/** Where a path meets a surface; choosing it offers something soft at that spot. */
function Hit({
  at,
  hollow,
  label,
  onClick,
}: {
  at: PointPx
  hollow: boolean
  label: string
  onClick: (() => void) | undefined
}) {
  return (
    <g
      {...(onClick ? { role: 'button', tabIndex: 0, 'aria-label': label, style: { cursor: 'pointer' } } : {})}
      onClick={onClick}
      onKeyDown={(e) => {
        if (onClick && (e.key === 'Enter' || e.key === ' ')) {
          e.preventDefault()
          onClick()
        }
      }}
    >
      <circle cx={at[0]} cy={at[1]} r={12} fill="transparent" />
      <circle
        cx={at[0]}
        cy={at[1]}
        r={hollow ? 4 : 5.2}
        fill="var(--card)"
        stroke="var(--bounce)"
        strokeWidth={2}
        strokeDasharray={hollow ? '2 2' : undefined}
      />
    </g>
  )
}

/** Line weight from level: -12 dB is a bold stroke, -34 dB a hairline. */
const weight = (levelDb: number) => 0.7 + 3 * Math.min(Math.max((levelDb + 34) / 22, 0), 1) ** 1.3
