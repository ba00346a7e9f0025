import type { Placed } from './labels'

/** A placed label with the line that leads to it, if it needs one; nothing where it found no place. */
export function LabelText({ label, colour, halo }: { label: Placed; colour: string; halo?: string }) {
  if (!label.shown) return null
  return (
    <g pointerEvents="none">
      {label.leader ? (
        <path
          d={`M${label.leader[0].join(' ')}L${label.leader[1].join(' ')}`}
          stroke={colour}
          strokeWidth={1}
          strokeDasharray="2 3"
        />
      ) : null}
      <text
        x={label.x}
        y={label.y}
        fontSize={label.size}
        fontWeight={600}
        style={{ fill: colour }}
        data-label={label.key}
        {...(halo ? { stroke: halo, strokeWidth: 3, paintOrder: 'stroke' } : {})}
      >
        {label.text}
      </text>
    </g>
  )
}
