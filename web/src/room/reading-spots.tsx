import { type PlanView, type PointM, toPx } from './geometry'

export type Spot = { at: PointM; count: number }

/** Where readings were taken: small rings with their number, left out where the microphone stands now. */
export function ReadingSpots({ spots, mic, view }: { spots: readonly Spot[]; mic: PointM; view: PlanView }) {
  const elsewhere = spots.filter(({ at }) => Math.hypot(at[0] - mic[0], at[1] - mic[1]) > 0.06)
  return (
    <g data-testid="reading-spots" pointerEvents="none">
      {elsewhere.map(({ at, count }) => {
        const [x, y] = toPx(at, view)
        return (
          <g key={at.join()}>
            <circle
              cx={x}
              cy={y}
              r={9}
              fill="var(--card)"
              stroke="var(--mic)"
              strokeWidth={1.6}
              strokeDasharray="3 2"
            />
            <text x={x} y={y + 4} textAnchor="middle" fontSize={11.5} fontWeight={600} style={{ fill: 'var(--mic)' }}>
              {count}
            </text>
          </g>
        )
      })}
    </g>
  )
}
