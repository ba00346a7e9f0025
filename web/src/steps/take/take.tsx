import type { Reading, ResultOf } from '../../api/client'
import { useBest } from '../../bench/use-best'
import { ReadingRows } from '../../listen/reading-rows'
import { TakeReading } from '../../listen/take-reading'
import { useDesk } from '../../rooms/desk'
import { useCatalogue } from '../../state/catalogue'
import { partOf, PlayPart } from '../../ui/play-part'

/** What was found, worst first, each to be heard and with its cure; the figures; the takes. */
export function TakeSide() {
  const { reading: chosen } = useDesk()
  const reading = useBest('take', chosen)
  if (reading === undefined)
    return (
      <p role="status" className="min-h-[52rem]">
        Opening the take…
      </p>
    )
  return (
    <div className="space-y-4">
      {reading && typeof reading.result.true_peak_dbtp === 'number' ? (
        <>
          <Found id={reading.id} seconds={reading.seconds} take={reading.result} />
          <Figures take={reading.result} simulated={reading.simulated} />
        </>
      ) : null}
      <TakeReading form="take" />
      <ReadingRows form="take" fallback={reading?.id ?? null} />
    </div>
  )
}

const WORST_FIRST = ['dead_channel', 'clipped', 'flat_top', 'pop', 'hum', 'too_quiet', 'dc']

function Found({ id, seconds, take }: { id: Reading['id']; seconds: number; take: ResultOf<'take'> }) {
  const { findings } = useCatalogue()
  const sorted = [...take.findings].sort((a, b) => WORST_FIRST.indexOf(a.kind) - WORST_FIRST.indexOf(b.kind))
  return (
    <section data-testid="take-found">
      <h2 className="text-[1.1rem]">Found, worst first</h2>
      {sorted.length === 0 ? (
        <p className="text-[0.92rem] text-ink-2">Nothing: no puff, no cut peak, no hum, no dead channel.</p>
      ) : (
        <ol>
          {sorted.map((f) => (
            <li key={`${f.kind}-${f.start_s}`} className="border-b border-line py-1.5 last:border-0">
              <div className="flex items-center justify-between gap-2">
                <p className="min-w-0 text-[0.95rem] font-semibold">
                  {findings.find((w) => w.key === f.kind)?.name ?? f.kind}{' '}
                  <span className="font-normal text-ink-2">at {f.start_s.toFixed(1)} s</span>
                </p>
                <PlayPart
                  address={`${partOf(id, Math.max(f.start_s - 0.5, 0), Math.min(f.end_s + 0.8, seconds))}&level=false`}
                  label={`${f.kind} at ${f.start_s.toFixed(1)} seconds`}
                />
              </div>
              <p className="text-[0.86rem] text-change">{f.cure}</p>
            </li>
          ))}
        </ol>
      )}
    </section>
  )
}

function Figures({ take, simulated }: { take: ResultOf<'take'>; simulated: boolean }) {
  const dbfs = (value: number | null | undefined) =>
    value == null ? 'no pause to read it' : `${value.toFixed(1).replace('-', '−')} dBFS`
  const rows: [string, string, string][] = [
    ['Loudest peak', dbfs(take.true_peak_dbtp), 'wanted −12 to −6'],
    ['Average while sounding', dbfs(take.average_dbfs), 'wanted about −18'],
    ['Noise floor between phrases', dbfs(take.noise_floor_dbfs), ''],
    ['Noise under the performance', take.snr_db == null ? '–' : `${take.snr_db.toFixed(0)} dB`, 'A-weighted'],
    ['Loudness', take.loudness_lufs == null ? '–' : `${take.loudness_lufs.toFixed(1).replace('-', '−')} LUFS`, ''],
  ]
  const advice = take.gain_advice_db ?? 0
  return (
    <section data-testid="take-figures">
      <h2 className="text-[1.1rem]">
        {advice === 0
          ? 'Leave the gain where it is'
          : `Turn the gain ${advice > 0 ? 'up' : 'down'} by about ${Math.abs(advice)} dB`}
        {simulated ? <span className="font-text text-[0.85rem] font-normal text-ink-2"> (simulated take)</span> : null}
      </h2>
      <dl className="mt-1">
        {rows.map(([label, value, note]) => (
          <div
            key={label}
            className="flex items-baseline justify-between gap-2 border-b border-line py-1 text-[0.92rem] last:border-0"
          >
            <dt className="text-ink-2">{label}</dt>
            <dd className="text-right font-semibold">
              {value} {note ? <span className="block text-[0.8rem] font-normal text-ink-2">{note}</span> : null}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  )
}
