import type { Schemas } from '../../api/client'
import { Drawing } from '../../room/drawing'
import { ways as onPlan } from '../../room/layers/ways'
import { priceText } from '../../state/currency'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { NumberField } from '../../ui/fields'
import { Caution } from '../../ui/notice'
import { Select } from '../../ui/select'
import { Whole } from '../../ui/whole'

const SHOWN_SHARE = 0.005
const KINDS = [
  { key: 'vent', name: 'Ventilation opening', hint: 'stays free; it is shown so that you know' },
  { key: 'pipe', name: 'Hole round a pipe' },
  { key: 'crack', name: 'Crack' },
  { key: 'letterbox', name: 'Letterbox' },
  { key: 'hatch', name: 'Hatch' },
]
const DOORS = [
  { key: 'light', name: 'a light leaf', hint: 'hollow, about 9 kg a square metre' },
  { key: 'solid', name: 'a solid leaf', hint: 'about 25 kg a square metre' },
]
const PANES = [
  { key: 'single', name: 'one pane' },
  { key: 'double', name: 'a double pane' },
  { key: 'secondary', name: 'two windows behind each other' },
]

const onWall = (surface: string) => surface.replace('wall-', 'wall ')

/** Ways in, the widest first: what share comes through each, and what closing it buys. */
export function WaysBench({ hush }: { hush: Schemas['HushAnswer'] | undefined }) {
  const { document, edit } = useRoom()
  const ways = (hush?.ways ?? []).filter((w) => w.share >= SHOWN_SHARE || w.closed_with || w.kind === 'vent')
  const worth = (surface: string) =>
    Math.max(
      ...ways
        .filter((w) => w.surface === surface)
        .flatMap((w) => [0, ...w.buys.map((b) => Math.max(b.hush_db, b.passing_db ?? 0))]),
    )
  const surfaces = [...new Set(ways.map((w) => w.surface))].sort((a, b) => worth(b) - worth(a))
  return (
    <div className="pb-3" data-testid="ways-bench">
      <h3 className="text-head leading-tight">Where does it come in, and what is worth closing?</h3>
      <p className="text-note text-ink-2">{hush?.ways_words ?? 'Working it out'}</p>
      <div className="relative my-2 h-56">
        <Whole what="The drawing" again={document.name}>
          <Drawing layer={onPlan} small />
        </Whole>
      </div>
      <div className="mt-2 grid gap-x-6 gap-y-3 lg:grid-cols-2">
        {surfaces.map((surface) => (
          <section key={surface} aria-label={onWall(surface)}>
            <h4 className="font-display font-semibold capitalize">{onWall(surface)}</h4>
            <ul>
              {ways
                .filter((w) => w.surface === surface)
                .sort((a, b) => b.share - a.share)
                .map((way) => (
                  <li key={way.key || way.kind} className="border-b border-line py-1.5 last:border-0">
                    <div className="flex items-baseline gap-2">
                      <span className="min-w-0 flex-1 font-semibold">{way.label}</span>
                      <span className="text-small text-ink-2 tabular-nums">{percent(way.share)} of it</span>
                    </div>
                    <div aria-hidden className="my-1 h-1.5 rounded-full bg-floor">
                      <div className="h-full rounded-full bg-hush" style={{ width: `${way.share * 100}%` }} />
                    </div>
                    {way.closed_with ? (
                      <p className="flex items-center gap-2 text-small">
                        Sealed with {way.closed_with}.
                        <Button small look="quiet" onClick={() => edit({ do: 'seal-way', way: way.key, means: null })}>
                          Open it again
                        </Button>
                      </p>
                    ) : (
                      way.buys.map((buy) => (
                        <div key={buy.means} className="flex items-center gap-x-2 text-small">
                          <p className="min-w-0 flex-1 leading-snug">
                            {buy.label}
                            <span className="block text-ink-2 tabular-nums">
                              {buy.words}, {buy.through_db.toFixed(1)} dB through this surface ·{' '}
                              {priceText(buy.cost, document.brief.currency)}
                            </span>
                          </p>
                          <Button small look="quiet" onClick={() => edit(...buy.edits)}>
                            Seal it<span className="sr-only"> with {buy.label}</span>
                          </Button>
                        </div>
                      ))
                    )}
                    {way.note ? <p className="text-fine text-ink-2">{way.note}</p> : null}
                  </li>
                ))}
            </ul>
          </section>
        ))}
      </div>
      <Leaks />
      <div className="mt-2 space-y-1.5">
        <Caution text="All sure to about 3 dB. Vents, doors and windows that are ways out stay free; a landlord’s word and the local code come first." />
      </div>
    </div>
  )
}

const percent = (share: number) => (share < 0.01 ? 'under 1 %' : `${(100 * share).toFixed(0)} %`)

/** What doors and windows are made of, and leaks that are neither. */
function Leaks() {
  const { document, change } = useRoom()
  const walls = document.shape.plan.map((_, i) => ({ key: `wall-${i + 1}`, name: `Wall ${i + 1}` }))
  const leaks = document.leaks ?? []
  const setOpening = (at: number, part: object) =>
    change('opening', (now) => ({ ...now, openings: now.openings.map((o, k) => (k === at ? { ...o, ...part } : o)) }))
  const setLeak = (at: number, part: object) =>
    change('leak', (now) => ({ ...now, leaks: (now.leaks ?? []).map((l, k) => (k === at ? { ...l, ...part } : l)) }))
  return (
    <details className="mt-3 border-t border-line pt-2">
      <summary className="cursor-pointer font-display font-semibold">
        What the openings are like, and other holes
      </summary>
      <div className="mt-2 grid gap-3 sm:grid-cols-2 lg:grid-cols-3">
        {document.openings.map((o, i) => (
          <div key={i} className="rounded-lg border border-line p-2.5">
            <h4 className="font-semibold capitalize">
              {o.kind}, {onWall(o.surface)}
            </h4>
            <Select
              label="Made of"
              value={o.make ?? (o.kind === 'door' ? 'light' : 'single')}
              options={o.kind === 'door' ? DOORS : PANES}
              onChange={(make) => setOpening(i, { make })}
            />
            <NumberField
              label={o.kind === 'door' ? 'Gap under it' : 'Joint round it'}
              unit="mm"
              digits={1}
              value={o.gap_mm ?? (o.kind === 'door' ? 6 : 0.5)}
              low={0}
              high={60}
              onChange={(gap_mm) => setOpening(i, { gap_mm })}
            />
          </div>
        ))}
        {leaks.map((leak, i) => (
          <div key={`leak-${i}`} className="rounded-lg border border-line p-2.5">
            <div className="flex items-baseline justify-between">
              <h4 className="font-semibold">{KINDS.find((k) => k.key === leak.kind)?.name}</h4>
              <Button
                small
                look="quiet"
                onClick={() =>
                  change('remove a leak', (now) => ({ ...now, leaks: (now.leaks ?? []).filter((_, k) => k !== i) }))
                }
              >
                Remove
              </Button>
            </div>
            <Select label="What" value={leak.kind} options={KINDS} onChange={(kind) => setLeak(i, { kind })} />
            <Select
              label="In"
              value={leak.surface}
              options={walls}
              onChange={(surface) => setLeak(i, { surface, x_m: 0.1 })}
            />
            <NumberField
              label="Open area"
              unit="cm²"
              value={leak.area_cm2}
              low={0.1}
              high={20000}
              digits={1}
              onChange={(area_cm2) => setLeak(i, { area_cm2 })}
            />
          </div>
        ))}
      </div>
      <Button
        small
        className="mt-2"
        onClick={() =>
          change('add a leak', (now) => ({
            ...now,
            leaks: [...(now.leaks ?? []), { kind: 'pipe', surface: 'wall-1', x_m: 0.2, z_m: 0.2, area_cm2: 10 }],
          }))
        }
      >
        Note another hole
      </Button>
    </details>
  )
}
