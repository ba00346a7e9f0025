import type { ResultOf } from '../../api/client'
import { useBest } from '../../bench/use-best'
import { useDesk } from '../../rooms/desk'
import { useCatalogue } from '../../state/catalogue'
import { Readings } from '../listen/listen'

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
        <Figures take={reading.result} simulated={reading.simulated} />
      ) : null}
      <Readings form="take" fallback={reading?.id ?? null} />
    </div>
  )
}

function Figures({ take, simulated }: { take: ResultOf<'take'>; simulated: boolean }) {
  const { findings } = useCatalogue()
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
      {take.findings.map((f) => (
        <p key={`${f.kind}-${f.start_s}`} className="mt-1.5 border-l-4 border-bounce pl-2.5 text-[0.9rem]">
          <strong>{findings.find((w) => w.key === f.kind)?.name ?? f.kind}</strong>, {f.start_s.toFixed(1)} to{' '}
          {f.end_s.toFixed(1)} s. {f.cure}
        </p>
      ))}
    </section>
  )
}
