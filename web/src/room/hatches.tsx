/** Hatch patterns by what a wall is made of. Drawn in the plane of the wall; vertical walls use turned copies. */
const KINDS = ['solid', 'brick', 'board', 'wood', 'concrete', 'soft', 'cloth', 'glass', 'open', 'dots'] as const

/** Specks of paper, scattered once: a turbulence filter looks the same and costs a repaint of the room at every step. */
const GRAIN = Array.from({ length: 90 }, (_, i) => `M${(i * 61.8) % 96} ${(i * i * 7.3 + i * 29) % 96}h0.01`).join('')

const ink = { stroke: 'var(--hatch)', strokeWidth: 1, fill: 'none', opacity: 0.75 } as const

function lines(kind: (typeof KINDS)[number]) {
  switch (kind) {
    case 'brick':
      return { w: 18, h: 10, body: <path d="M0 0H18M0 5H18M5 0V5M14 5V10" {...ink} strokeWidth={0.8} /> }
    case 'board':
      return { w: 14, h: 15, body: <path d="M0 3.5H14M0 11.5H14M7 3.5V11.5" {...ink} strokeWidth={0.9} /> }
    case 'wood':
      return {
        w: 26,
        h: 15,
        body: <path d="M0 4Q7 2 13 4T26 4M0 9Q7 12 13 9T26 9M4 13H18" {...ink} strokeWidth={0.8} />,
      }
    case 'concrete':
      return {
        w: 16,
        h: 15,
        body: (
          <g {...ink} fill="var(--hatch)" stroke="none">
            <circle cx="3" cy="4" r="0.9" />
            <circle cx="11" cy="2.5" r="0.6" />
            <circle cx="7.5" cy="9" r="1" />
            <path d="M12 11l2.2 2.4h-3.6z" />
          </g>
        ),
      }
    case 'dots':
      return { w: 7, h: 7, body: <circle cx="3.5" cy="3.5" r="1.1" fill="var(--hatch)" opacity={0.75} /> }
    case 'open':
      return { w: 10, h: 10, body: <path d="M2 5H5" {...ink} strokeWidth={0.8} /> }
    case 'soft':
    case 'cloth':
      return { w: 6, h: 6, body: <path d="M0 6L6 0M-1 1L1 -1M5 7L7 5M0 0L6 6" {...ink} strokeWidth={0.6} /> }
    default:
      return { w: 8, h: 8, body: <path d="M-2 10L10 -2M-2 2L2 -2M6 10L10 6" {...ink} /> }
  }
}

export function Hatches() {
  return (
    <defs>
      {KINDS.flatMap((kind) => {
        const { w, h, body } = lines(kind)
        return [0, 90].map((turn) => (
          <pattern
            key={`${kind}-${turn}`}
            id={`hatch-${kind}-${turn}`}
            width={w}
            height={h}
            patternUnits="userSpaceOnUse"
            patternTransform={`rotate(${turn})`}
          >
            {body}
          </pattern>
        ))
      })}
      <pattern id="felt-weave" width="5" height="5" patternUnits="userSpaceOnUse">
        <path d="M0 5L5 0M-1 1L1 -1M4 6L6 4" stroke="var(--felt)" strokeWidth="0.9" opacity="0.55" />
      </pattern>
      <pattern id="rug-weave" width="7" height="7" patternUnits="userSpaceOnUse">
        <path d="M0 7L7 0M-1 1L1 -1M6 8L8 6" stroke="var(--hatch)" strokeWidth="0.8" opacity="0.6" />
      </pattern>
      <pattern id="paper-grain" width="96" height="96" patternUnits="userSpaceOnUse">
        <path d={GRAIN} stroke="var(--hatch)" strokeWidth="0.9" strokeLinecap="round" opacity="0.22" />
      </pattern>
    </defs>
  )
}
