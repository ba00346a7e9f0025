import type { Form } from '../api/client'

const W = 84
const H = 34

/** A reading as a few strokes: decay hangs down by octave, noise lies on the ground, a take runs along its middle. */
export function Sketch({ form, heights }: { form: Form; heights: readonly (number | null)[] }) {
  const n = heights.length
  if (n < 2) return <svg width={W} height={H} aria-hidden className="shrink-0" />
  const x = (i: number) => 4 + (i / (n - 1)) * (W - 8)
  const known = heights.flatMap((h, i) => (h === null ? [] : [[i, h] as const]))
  return (
    <svg width={W} height={H} viewBox={`0 0 ${W} ${H}`} aria-hidden className="shrink-0">
      {form === 'response' ? (
        <>
          <path d={`M2 4H${W - 2}`} stroke="var(--ink-2)" strokeWidth="1.4" />
          {known.map(([i, h]) => (
            <g key={i}>
              <path d={`M${x(i)} 4V${4 + h * 23}`} stroke="var(--boom)" strokeWidth="1.8" />
              <circle cx={x(i)} cy={4 + h * 23} r="2.4" fill="var(--boom)" />
            </g>
          ))}
        </>
      ) : form === 'take' ? (
        <path
          d={`M${known.map(([i, h]) => `${x(i)} ${H / 2 - 1 - h * 14}`).join('L')}L${[...known]
            .reverse()
            .map(([i, h]) => `${x(i)} ${H / 2 + 1 + h * 14}`)
            .join('L')}Z`}
          fill="var(--wall)"
          stroke="var(--touch)"
        />
      ) : form === 'tone' ? (
        <path
          d={`M${x(known[0]![0])} ${H - 3}L${known.map(([i, h]) => `${x(i)} ${H - 4 - h * 26}`).join('L')}L${x(known.at(-1)![0])} ${H - 3}Z`}
          fill="var(--floor)"
          stroke="var(--hush)"
          strokeWidth="1.4"
        />
      ) : (
        <path
          d={`M${known.map(([i, h]) => `${x(i)} ${H - 4 - h * 26}`).join('L')}`}
          fill="none"
          stroke="var(--boom)"
          strokeWidth="1.6"
        />
      )}
    </svg>
  )
}
