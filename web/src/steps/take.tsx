import { useQuery } from '@tanstack/react-query'
import { roomQueries } from '../api/queries'
import { TAKES } from '../listen/kinds'
import type { TakeResult } from '../plots/reading-data'
import { useRoom } from '../state/room'
import { ListenPanel } from './listen'

const FINDING_WORDS: Record<string, string> = {
  clipped: 'Cut at full scale',
  flat_top: 'Tops cut flat',
  too_quiet: 'Too quiet',
  hum: 'Hum',
  pop: 'Pop',
  dc: 'Shifted wave',
  dead_channel: 'One channel dead',
}

export function TakePanel({ chosen, onChoose }: { chosen: string | null; onChoose: (id: string) => void }) {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const takes = readings.filter((r) => TAKES.includes(r.kind))
  const shown = takes.find((r) => r.id === chosen) ?? takes.find((r) => !r.simulated && r.counts) ?? takes[0]
  const { data: reading } = useQuery({ ...roomQueries.reading(shown?.id ?? ''), enabled: Boolean(shown) })
  const take = reading?.result as unknown as TakeResult | undefined
  return (
    <div className="space-y-4">
      {reading && typeof take?.true_peak_dbtp === 'number' ? (
        <Figures take={take} simulated={reading.simulated} />
      ) : null}
      <ListenPanel chosen={shown?.id ?? null} onChoose={onChoose} kinds={['take', 'spoken', 'pops', 'loudest']} />
    </div>
  )
}

function Figures({ take, simulated }: { take: TakeResult; simulated: boolean }) {
  const dbfs = (value: number | null) =>
    value === null ? 'no pause to read it' : `${value.toFixed(1).replace('-', '−')} dBFS`
  const rows: [string, string, string][] = [
    ['Loudest peak', dbfs(take.true_peak_dbtp), 'wanted −12 to −6'],
    ['Average while sounding', dbfs(take.average_dbfs), 'wanted about −18'],
    ['Noise floor between phrases', dbfs(take.noise_floor_dbfs), ''],
    ['Noise under the performance', take.snr_db === null ? '–' : `${take.snr_db.toFixed(0)} dB`, 'A-weighted'],
    ['Loudness', take.loudness_lufs === null ? '–' : `${take.loudness_lufs.toFixed(1).replace('-', '−')} LUFS`, ''],
  ]
  const advice = take.gain_advice_db
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
          <strong>{FINDING_WORDS[f.kind] ?? f.kind}</strong>, {f.start_s.toFixed(1)} to {f.end_s.toFixed(1)} s. {f.cure}
        </p>
      ))}
    </section>
  )
}
