import { useHush } from '../../state/use-hush'
import { type PointPx, toPx } from '../geometry'
import { LabelText } from '../label-text'
import { placeLabels } from '../labels'
import type { Layer, PlanProps } from './layer'

const SHOWN_SHARE = 0.005

/** Ways in, each where it is: the wider the ring, the more of its surface's sound comes through it. */
function Plan({ view, obstacles, page }: PlanProps) {
  const { data: hush } = useHush()
  const drawn = (hush?.ways ?? []).flatMap((way) => {
    if (!way.at || (way.share < SHOWN_SHARE && way.kind !== 'vent')) return []
    const at: PointPx = toPx([way.at[0], way.at[1]], view)
    return [{ way, at }]
  })
  const labels = placeLabels(
    drawn.map(({ way, at }) => ({
      key: way.key,
      text: `${way.label.replace(/^the /, '')} ${(100 * way.share).toFixed(0)} %`,
      at,
      size: 11.5,
      weight: way.share,
    })),
    obstacles,
    page,
    [],
  )
  return (
    <g pointerEvents="none">
      {drawn.map(({ way, at }) => (
        <circle
          key={way.key}
          cx={at[0]}
          cy={at[1]}
          r={4 + 10 * Math.sqrt(way.share)}
          fill={way.closed_with ? 'var(--felt-soft)' : 'none'}
          stroke={way.closed_with ? 'var(--felt)' : 'var(--hush)'}
          strokeWidth={2}
          strokeDasharray={way.closed_with ? '3 3' : undefined}
        />
      ))}
      {labels.map((label) => (
        <LabelText key={label.key} label={label} colour="var(--hush)" />
      ))}
    </g>
  )
}

export const ways: Layer = {
  key: 'ways',
  name: 'Ways in',
  says: 'What lets sound in; the wider the ring, the more of it.',
  Plan,
}
