import { keepPreviousData } from '@tanstack/react-query'
import { type KeyboardEvent, type MouseEvent, useState } from 'react'
import { $api, type ResultOf } from '../../api/client'
import { useWidth } from '../../plots/use-width'
import { useCatalogue } from '../../state/catalogue'
import { Button } from '../../ui/button'
import { beside, clock, moved, showing, type Span, zoomed } from './span'
import { Threads } from './threads'
import type { Player } from './use-player'

const EDGE = { left: 46, right: 14 } as const
const H = 150
const LOOP_S = 1

/** The recording: its wave to zoom and play, its lines on felt, and under it the threads with their knots. */
export function Recording({
  id,
  take,
  seconds,
  player,
}: {
  id: string
  take: ResultOf<'take'>
  seconds: number
  player: Player
}) {
  const { box, w } = useWidth()
  const { findings: kinds } = useCatalogue()
  const [span, setSpan] = useState<Span>([0, seconds])
  const inner = Math.max(w - EDGE.left - EDGE.right, 100)
  const wave = $api.useQuery(
    'get',
    '/api/readings/{reading_id}/wave',
    {
      params: {
        path: { reading_id: id },
        query: { from_s: span[0], to_s: span[1], points: Math.min(Math.round(inner), 1600) },
      },
    },
    { placeholderData: keepPreviousData },
  )
  const x = (s: number) => EDGE.left + ((s - span[0]) / (span[1] - span[0])) * inner
  const starts = take.findings.map((f) => f.start_s)
  const jump = (way: 1 | -1) => {
    const to = beside(starts, player.atS, way)
    if (to === null) return
    player.seek(to)
    setSpan((now) => showing(now, to, seconds))
  }
  const around = (at: number): Span => [Math.max(at - LOOP_S / 2, 0), Math.min(at + LOOP_S / 2, seconds)]
  const onKeyDown = (event: KeyboardEvent) => {
    const acts: Record<string, () => void> = {
      ' ': () => (player.playing ? player.stop() : player.play(player.atS)),
      n: () => jump(1),
      p: () => jump(-1),
      l: () => (player.loop ? player.stop() : player.play(around(player.atS)[0], around(player.atS))),
      '+': () => setSpan((now) => zoomed(now, 0.5, player.atS || (now[0] + now[1]) / 2, seconds)),
      '-': () => setSpan((now) => zoomed(now, 2, (now[0] + now[1]) / 2, seconds)),
      ArrowRight: () => setSpan((now) => moved(now, 0.25, seconds)),
      ArrowLeft: () => setSpan((now) => moved(now, -0.25, seconds)),
      Home: () => setSpan([0, seconds]),
    }
    const act = acts[event.key]
    if (!act || event.ctrlKey || event.metaKey || event.altKey) return
    event.preventDefault()
    act()
  }
  const onClick = (event: MouseEvent<SVGSVGElement>) => {
    const left = event.currentTarget.getBoundingClientRect().left
    const at = span[0] + ((event.clientX - left - EDGE.left) / inner) * (span[1] - span[0])
    player.seek(Math.min(Math.max(at, 0), seconds))
  }
  const [low, high, step, from] = wave.data
    ? [wave.data.low, wave.data.high, wave.data.step_s, wave.data.start_s]
    : [[], [], 1, 0]
  const top = Math.max(0.02, ...high.map(Math.abs), ...low.map(Math.abs))
  const y = (v: number) => H / 2 - (v / top) * (H / 2 - 8)
  const shape = high.length
    ? `M${high.map((v, i) => `${x(from + (i + 0.5) * step).toFixed(1)} ${y(v).toFixed(1)}`).join('L')}L${[...low]
        .map((v, i) => `${x(from + (i + 0.5) * step).toFixed(1)} ${y(v).toFixed(1)}`)
        .reverse()
        .join('L')}Z`
    : ''
  const told = `The recording, ${clock(seconds)} long, ${clock(span[0])} to ${clock(span[1])} shown; ${take.phrases?.length ?? 0} lines; ${take.findings.length} findings. Space plays, n and p go to the next and the previous finding, l loops a second, plus and minus zoom, arrows move, Home shows all.`
  return (
    <section aria-label="The recording" data-testid="recording" className="shrink-0">
      <div className="flex flex-wrap items-center gap-1.5">
        <Button
          small
          look={player.playing ? 'warm' : 'main'}
          onClick={() => (player.playing ? player.stop() : player.play(player.atS))}
        >
          {player.playing ? 'Stop' : 'Play'}
        </Button>
        <Button small onClick={() => jump(-1)} disabled={!starts.length} title="p">
          ‹ Finding
        </Button>
        <Button small onClick={() => jump(1)} disabled={!starts.length} title="n">
          Finding ›
        </Button>
        <Button
          small
          look="quiet"
          aria-pressed={player.loop !== null}
          title="l"
          onClick={() => (player.loop ? player.stop() : player.play(around(player.atS)[0], around(player.atS)))}
        >
          {player.loop ? 'End the loop' : 'Loop 1 s here'}
        </Button>
        <span className="ml-auto text-note font-semibold tabular-nums" aria-live="off">
          {clock(player.atS)} <span className="font-normal text-ink-2">of {clock(seconds)}</span>
        </span>
        <Button
          small
          look="quiet"
          title="+"
          onClick={() => setSpan((s) => zoomed(s, 0.5, player.atS || (s[0] + s[1]) / 2, seconds))}
        >
          Nearer
        </Button>
        <Button small look="quiet" title="-" onClick={() => setSpan((s) => zoomed(s, 2, (s[0] + s[1]) / 2, seconds))}>
          Wider
        </Button>
        <Button small look="quiet" title="Home" onClick={() => setSpan([0, seconds])}>
          All
        </Button>
      </div>
      <div ref={box} className="mt-1">
        <div tabIndex={0} onKeyDown={onKeyDown} role="application" aria-label={told} className="rounded-lg">
          <svg
            viewBox={`0 0 ${w} ${H}`}
            width={w}
            height={H}
            onClick={onClick}
            className="cursor-crosshair"
            aria-hidden
          >
            <clipPath id="wave-inner">
              <rect x={EDGE.left} y={0} width={inner} height={H} />
            </clipPath>
            <g clipPath="url(#wave-inner)">
              {(take.phrases ?? []).map(([a, b]) => (
                <rect
                  key={a}
                  x={x(a)}
                  y={3}
                  width={Math.max(x(b) - x(a), 1)}
                  height={H - 6}
                  rx={8}
                  fill="var(--felt-soft)"
                  opacity={0.55}
                />
              ))}
              <path d={shape} fill="var(--wall)" stroke="var(--ink-2)" strokeWidth={0.8} strokeLinejoin="round" />
              <path d={`M${EDGE.left} ${H / 2}H${w - EDGE.right}`} stroke="var(--line-strong)" strokeWidth={0.7} />
              {take.findings
                .filter((f) => f.end_s - f.start_s < 0.9 * seconds)
                .map((f) => (
                  <g key={`${f.kind} ${f.start_s}`}>
                    <path
                      d={`M${x(f.start_s)} 18V${H}`}
                      stroke="var(--change)"
                      strokeWidth={1.3}
                      strokeDasharray="3 3"
                    />
                  </g>
                ))}
              {player.loop ? (
                <rect
                  x={x(player.loop[0])}
                  y={0}
                  width={x(player.loop[1]) - x(player.loop[0])}
                  height={H}
                  fill="var(--change)"
                  opacity={0.14}
                />
              ) : null}
              <path d={`M${x(player.atS)} 0V${H}`} stroke="var(--ink)" strokeWidth={1.6} />
            </g>
            {flags(take, seconds, x, EDGE.left, w - EDGE.right).map(({ f, at }) => (
              <g key={`${f.kind} ${f.start_s}`}>
                <rect
                  x={at}
                  y={1}
                  width={nameOf(kinds, f.kind).length * 5.7 + 14}
                  height={18}
                  rx={5}
                  fill="var(--change)"
                />
                <text x={at + 7} y={14} fontSize={12} style={{ fill: 'var(--on-change)' }}>
                  {nameOf(kinds, f.kind)}
                </text>
              </g>
            ))}
            <text x={EDGE.left - 6} y={H / 2 + 4} fontSize={11.5} textAnchor="end" style={{ fill: 'var(--ink-2)' }}>
              wave
            </text>
          </svg>
        </div>
      </div>
      {wave.isError ? (
        <p className="text-small text-ink-2">The wave could not be drawn; it plays all the same.</p>
      ) : null}
      <Threads take={take} span={span} atS={player.atS} />
    </section>
  )
}

const nameOf = (kinds: readonly { key: string; name: string }[], key: string) =>
  kinds.find((k) => k.key === key)?.name ?? key

/** Flags over the wave, those that would lie on one before left out: their knots are below all the same. */
function flags(
  take: ResultOf<'take'>,
  seconds: number,
  x: (s: number) => number,
  leftPx: number,
  rightPx: number,
): { f: ResultOf<'take'>['findings'][number]; at: number }[] {
  let free = leftPx
  return [...take.findings]
    .filter((f) => f.end_s - f.start_s < 0.9 * seconds)
    .sort((a, b) => a.start_s - b.start_s)
    .flatMap((f) => {
      const at = x(f.start_s)
      if (at < free || at > rightPx - 60) return []
      free = at + 118
      return [{ f, at }]
    })
}
