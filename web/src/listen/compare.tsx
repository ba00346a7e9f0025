import { useQueries } from '@tanstack/react-query'
import { useState } from 'react'
import { $api, type Reading, type ReadingSummary } from '../api/client'
import { ofBoth, roomQueries } from '../api/queries'
import { isOf } from '../bench/of-form'
import { useKinds } from '../state/catalogue'
import { type Axis, PlotHeight, type Series, XYPlot, type XY } from '../plots/xy-plot'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'
import { partOf, PlayPart } from '../ui/play-part'
import { Segmented } from '../ui/segmented'
import { curvesOf, differences, type Look, LOOKS, meanAndSpread } from './curves'

const COLOURS = ['var(--ink)', 'var(--change)', 'var(--mic)', 'var(--boom)', 'var(--felt)', 'var(--touch)']
const DASHES = [undefined, '7 4', '2 4', '9 3 2 3', '4 2', '1 3']

/** Two or more readings on one plot, the differences from the first below; words of two takes level-matched. */
export function Compare({ readings, onBack }: { readings: readonly ReadingSummary[]; onBack: () => void }) {
  const { kindOf } = useKinds()
  const opened = useQueries({ queries: readings.map((r) => roomQueries.reading(r.id)) })
  const full = opened.map((q) => q.data).filter((r): r is Reading => r !== undefined)
  const fitting = LOOKS.filter((look) => full.filter((r) => curvesOf(r, look.key).length > 0).length > 1)
  const [picked, setLook] = useState<Look | null>(null)
  const look = fitting.find((l) => l.key === picked) ?? fitting[0]
  const [apart, setApart] = useState<'over' | 'differences' | 'spread'>('over')
  const mixed = new Set(readings.map((r) => r.simulated)).size > 1
  if (full.length < readings.length) return <p role="status">Opening the readings</p>
  const kept = look ? full.filter((r) => curvesOf(r, look.key).length > 0) : []
  const names = kept.map(
    (r, i) =>
      `${i + 1} ${kindOf(r.kind).name}${r.tags[0] ? `, ${r.tags[0]}` : ''}, ${new Date(r.taken_at).toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })}${r.simulated ? ' (simulated)' : ''}`,
  )
  const curves = look ? kept.map((r) => curvesOf(r, look.key)) : []
  return (
    <div className="space-y-3" data-testid="compare">
      <div className="flex flex-wrap items-center gap-2">
        <Button small onClick={onBack}>
          ‹ All readings
        </Button>
        {look ? (
          <Segmented small label="What to compare" value={look.key} options={fitting} onChange={setLook} />
        ) : null}
        {look ? (
          <Segmented
            small
            label="How"
            value={apart}
            options={[
              { key: 'over', name: 'On top' },
              { key: 'differences', name: 'Differences' },
              { key: 'spread', name: 'Mean and spread' },
            ]}
            onChange={setApart}
          />
        ) : null}
      </div>
      {mixed ? (
        <Notice
          tone="care"
          title="Simulated and real readings lie side by side here."
          body="The rig’s room only resembles yours; a difference between the two proves nothing."
        />
      ) : null}
      {look ? (
        <PlotHeight value={300}>
          <Plot look={look.key} names={names} curves={curves} apart={apart} />
        </PlotHeight>
      ) : (
        <p>These readings have no figure in common. Choose two of one kind.</p>
      )}
      {full.length === 2 && full.every((r) => isOf(r, 'take')) ? (
        <SameWords first={full[0]!} second={full[1]!} />
      ) : null}
    </div>
  )
}

function Plot({
  look,
  names,
  curves,
  apart,
}: {
  look: Look
  names: string[]
  curves: XY[][]
  apart: 'over' | 'differences' | 'spread'
}) {
  const { question, unit, axis, differ } = LOOKS.find((l) => l.key === look)!
  const shown: Series[] =
    apart === 'differences'
      ? differences(curves).map((points, i) => ({
          name: `${names[i + 1]} less 1`,
          unit,
          points,
          colour: COLOURS[(i + 1) % 6]!,
          kind: 'line',
          ...dashed(i + 1),
        }))
      : apart === 'spread'
        ? meanAndSpread(curves).map((points, i) => ({
            name: ['mean', 'mean + spread', 'mean − spread'][i]!,
            unit,
            points,
            colour: i ? 'var(--line-strong)' : 'var(--ink)',
            kind: 'line',
            ...(i ? { dash: '3 4' } : {}),
          }))
        : curves.map((points, i) => ({
            name: names[i]!,
            unit,
            points,
            colour: COLOURS[i % 6]!,
            kind: 'line',
            ...dashed(i),
          }))
  const values = shown.flatMap((s) => s.points.flatMap((p) => (p[1] === null ? [] : [p[1]])))
  const step = unit === 's' ? 0.2 : 10
  const fine = apart === 'differences' ? (unit === 's' ? 0.1 : 5) : step
  const low =
    unit === 's' && apart !== 'differences'
      ? 0
      : Math.floor(Math.min(...values, apart === 'differences' ? -fine : Infinity) / fine) * fine
  const high = Math.ceil(Math.max(...values, low + 2 * fine) / fine) * fine
  const y: Axis = {
    name: apart === 'differences' ? 'difference' : differ,
    unit,
    domain: [low, high],
    ticks: Array.from(
      { length: Math.round((high - low) / fine) + 1 },
      (_, i) => Math.round((low + i * fine) * 100) / 100,
    ),
    text: (v) => String(v).replace('-', '−'),
  }
  return (
    <XYPlot
      question={question}
      answer={answerOf(apart, curves, names, unit)}
      x={axis}
      y={y}
      series={shown}
      wanted={
        apart === 'differences'
          ? { low: unit === 's' ? -0.05 : -1, high: unit === 's' ? 0.05 : 1, name: 'hardly a difference' }
          : null
      }
      fileName={`compare-${look}`}
    />
  )
}

const dashed = (i: number) => {
  const dash = DASHES[i % 6]
  return dash ? { dash } : {}
}

/** The largest difference, said first. */
function answerOf(apart: string, curves: XY[][], names: string[], unit: string): string {
  const [first] = differences(curves)
  if (!first) return ''
  const known = first.filter((p): p is readonly [number, number] => p[1] !== null)
  const most = known.reduce<readonly [number, number] | null>(
    (a, b) => (a === null || Math.abs(b[1]) > Math.abs(a[1]) ? b : a),
    null,
  )
  if (!most) return 'They share no band that both give.'
  const mean = known.reduce((sum, p) => sum + p[1], 0) / known.length
  const digits = unit === 's' ? 2 : 1
  const signed = (v: number) => `${v > 0 ? '+' : '−'}${Math.abs(v).toFixed(digits)} ${unit}`
  if (apart === 'spread') return `${curves.length} readings: the mean, and how far they lie from it.`
  if (Math.abs(most[1]) < (unit === 's' ? 0.05 : 1)) return `They hardly differ: at most ${signed(most[1])}.`
  return `From 1 to ${names[1]?.split(' ')[0]}: ${signed(mean)} on average, most at ${most[0] >= 1000 ? `${most[0] / 1000} kHz` : `${Math.round(most[0])} Hz`} (${signed(most[1])}).`
}

function SameWords({ first, second }: { first: Reading; second: Reading }) {
  const { data, isError } = $api.useQuery(
    'get',
    '/api/readings/{reading_id}/same-words/{other_id}',
    ofBoth(first.id, second.id),
  )
  if (isError)
    return <Notice tone="care" title="The words could not be compared." body="One of the recordings is too quiet." />
  if (!data) return <p role="status">Making them equally loud</p>
  // turn the louder one down: never up
  const down = (db: number) => Math.min(1, 10 ** (db / 20))
  const peaks = [first, second].map((r) => (isOf(r, 'take') ? (r.result.true_peak_dbtp ?? 0) : 0))
  return (
    <section className="rounded-xl bg-paper p-3" data-testid="same-words">
      <h3 className="font-semibold">The same words, equally loud</h3>
      <p className="text-note text-ink-2">
        The second was {Math.abs(data.gain_db).toFixed(1)} dB {data.gain_db < 0 ? 'louder' : 'quieter'}; that is taken
        out here.
        {data.noise_db !== null
          ? ` Its pauses then lie ${Math.abs(data.noise_db).toFixed(0)} dB ${data.noise_db < 0 ? 'lower' : 'higher'}.`
          : ''}
      </p>
      <div className="mt-1 flex gap-2">
        <PlayPart
          address={`${partOf(first.id, 0, first.seconds)}&level=false`}
          volume={down(-Math.max(data.gain_db, 0))}
          label="the first"
          name="1 before"
        />
        <PlayPart
          address={`${partOf(second.id, 0, second.seconds)}&level=false`}
          volume={down(Math.min(data.gain_db, 0))}
          label="the second"
          name="2 after"
        />
      </div>
      {Math.max(...peaks) > 0 ? (
        <p className="text-small text-ink-2">One of them is clipped; what you hear of it is cut as it was recorded.</p>
      ) : null}
    </section>
  )
}
