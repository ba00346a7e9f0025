import { useState } from 'react'
import { $api, type Schemas } from '../../api/client'
import { useFiled } from '../../state/use-filed'
import { useSettled } from '../../state/use-settled'
import { Button } from '../../ui/button'
import { Caution, Failed, Notice } from '../../ui/notice'
import { Prices } from './prices'

/** What it takes to make what hangs in sight: to buy, to cut, what holds it, in which steps. */
export function Make() {
  const { ask, enabled } = useSettled()
  const { data: found, error } = $api.useQuery(
    'post',
    '/api/make',
    { body: ask },
    { enabled, placeholderData: undefined },
  )
  const { keep, trouble } = useFiled()
  const [pricing, setPricing] = useState(false)
  if (error) return <Failed error={error} />
  if (!found) return <div className="h-64 animate-pulse rounded-lg bg-floor" aria-label="Working" />
  return (
    <div data-testid="make" className="text-small leading-snug">
      <div className="flex flex-wrap items-center gap-2">
        <p className="font-semibold">
          {found.frames.length
            ? `${found.frames.length} frames, ${found.kg.toFixed(0)} kg, about ${(found.minutes / 60).toFixed(1)} h, ${found.currency}${found.cost.toFixed(0)}.`
            : found.items.length
              ? `Nothing to build; ${found.currency}${found.cost.toFixed(0)} to buy.`
              : found.notes[0]}
        </p>
        <Button small onClick={() => keep('/api/make.pdf', 'make it')}>
          Print it (PDF)
        </Button>
        <Button small look="quiet" onClick={() => keep('/api/make.csv', 'make it')}>
          Table (CSV)
        </Button>
        <Button small look="quiet" onClick={() => setPricing(true)}>
          Your prices
        </Button>
        <Prices open={pricing} onClose={() => setPricing(false)} />
      </div>
      {trouble ? <Notice tone="stop" title={trouble} body="Try again; nothing was changed." /> : null}
      <div className="mt-2 grid gap-x-6 gap-y-3 lg:grid-cols-2">
        {found.items.length ? <Bought made={found} /> : null}
        {found.frames.length ? (
          <section>
            <h3 className="text-plain">Cut the boards, mm</h3>
            {found.timber.map((boards) => (
              <Bars
                key={boards.wide_mm}
                name={`18 × ${boards.wide_mm.toFixed(0)}`}
                bars={boards.bars}
                left={boards.left_over}
              />
            ))}
            <ul className="mt-1 text-ink-2">
              {found.fixings.map((fixing) => (
                <li key={fixing.name}>{fixing.words}</li>
              ))}
            </ul>
          </section>
        ) : null}
        {found.steps.length ? (
          <section className="lg:col-span-2">
            <h3 className="text-plain">Do it</h3>
            <ol className="list-decimal space-y-1 pl-5">
              {found.steps.map((step) => (
                <li key={step.text}>
                  {step.text}
                  {step.cautions.map((text) => (
                    <Caution key={text} text={text} />
                  ))}
                </li>
              ))}
            </ol>
            <p className="mt-1 text-ink-2">{found.notes.join(' ')}</p>
          </section>
        ) : null}
      </div>
    </div>
  )
}

function Bought({ made }: { made: Schemas['MakingAnswer'] }) {
  return (
    <section>
      <h3 className="text-plain">Buy, or have</h3>
      <table className="w-full">
        <tbody>
          {made.items.map((item) => (
            <tr key={item.name} className="border-t border-line">
              <th scope="row" className="py-0.5 text-left font-normal">
                {item.name}
              </th>
              <td className="pl-3 text-right whitespace-nowrap tabular-nums">
                {Number(item.amount.toFixed(1))} {item.unit}
                {item.unit !== 'm' && item.amount !== 1 ? 's' : ''}
              </td>
              <td className="pl-3 text-right font-semibold whitespace-nowrap tabular-nums">
                {made.currency}
                {item.cost.toFixed(2)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-0.5 text-ink-2">Prices are ours until you put in your own.</p>
    </section>
  )
}

type BarsProps = { name: string; bars: Schemas['BarAnswer'][]; left: string }

/** Bars to scale with their cuts, like ones once. */
function Bars({ name, bars, left }: BarsProps) {
  const longest = Math.max(...bars.map((bar) => bar.stock_mm))
  const alike = new Map<string, { bar: Schemas['BarAnswer']; count: number }>()
  for (const bar of bars) {
    const key = JSON.stringify(bar)
    alike.set(key, { bar, count: (alike.get(key)?.count ?? 0) + 1 })
  }
  return (
    <div className="mb-1.5">
      <p className="text-ink-2">
        Boards {name}, {left}
      </p>
      {[...alike.entries()].map(([key, { bar, count }]) => (
        <div key={key} className="mt-0.5 flex items-center gap-2">
          <span className="w-7 shrink-0 text-right font-semibold">{count} ×</span>
          <div className="flex h-6 min-w-0 flex-1">
            {bar.cuts_mm.map((mm, i) => (
              <span
                key={i}
                className="flex items-center justify-center border border-ink-2 bg-floor text-fine tabular-nums"
                style={{ width: `${(mm / longest) * 100}%` }}
              >
                {mm.toFixed(0)}
              </span>
            ))}
            <span
              className="border border-dashed border-line-strong"
              style={{
                width: `${((bar.stock_mm - bar.cuts_mm.reduce((sum, mm) => sum + mm, 0)) / longest) * 100}%`,
              }}
            />
          </div>
        </div>
      ))}
    </div>
  )
}
