import type { Arrangement } from '../api/client'
import { toPx } from './geometry'

/** Where the marks stood before the move being tried: pale crosses and the way from them. */
export function Former({
  standing,
  active,
  view,
}: {
  standing: Arrangement
  active: Arrangement
  view: Parameters<typeof toPx>[1]
}) {
  return (
    <g stroke="var(--change)" strokeWidth={1.5} fill="none" opacity={0.75}>
      {(['performer', 'microphone'] as const).map((who) => {
        const a = toPx([standing[who].at[0], standing[who].at[1]], view)
        const b = toPx([active[who].at[0], active[who].at[1]], view)
        if (Math.hypot(a[0] - b[0], a[1] - b[1]) < 3) return null
        return (
          <g key={who}>
            <path d={`M${a[0] - 5} ${a[1] - 5}l10 10M${a[0] + 5} ${a[1] - 5}l-10 10`} />
            <path d={`M${a.join(' ')}L${b.join(' ')}`} strokeDasharray="3 4" />
          </g>
        )
      })}
    </g>
  )
}
