import { useQuery } from '@tanstack/react-query'
import { useContext, useState } from 'react'
import { roomQueries } from '../api/queries'
import { CalibrateSheet } from '../listen/calibrate'
import { EventList, NoiseList } from '../plots/heard-lists'
import { NoisePlot } from '../plots/noise-plot'
import { PlotHeight } from '../plots/xy-plot'
import { BenchHeight } from './height'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { partOf, PlayPart } from '../ui/play-part'
import { Segmented } from '../ui/segmented'
import { isOf, type ReadingOf } from './of-form'
import { useReading } from './use-best'

const VIEWS = [
  { key: 'spectrum', name: 'Spectrum' },
  { key: 'noises', name: 'What it is' },
  { key: 'events', name: 'What passed' },
] as const

/** Noise with the performance over it, when a take through the same chain exists; what it is made of; what passed, to be heard. */
export function ToneBench({ reading }: { reading: ReadingOf<'tone'> }) {
  const [view, setView] = useState<(typeof VIEWS)[number]['key']>('spectrum')
  const height = useContext(BenchHeight)
  const [calibrating, setCalibrating] = useState(false)
  const voice = useVoice(reading)
  const tone = reading.result
  const off = reading.settings.calibration_plus_minus_db
  return (
    <div>
      <div className="mb-1.5 flex flex-wrap items-center gap-2">
        <Segmented small label="What to look at" value={view} options={VIEWS} onChange={setView} />
        <PlayPart
          address={partOf(reading.id, 0, reading.seconds)}
          label="this silence, raised to be heard"
          name="Hear it, raised"
          volume={0.7}
        />
        {reading.simulated ? null : (
          <Button small look="quiet" onClick={() => setCalibrating(true)}>
            {tone.calibrated ? `Calibrated ±${off?.toFixed(1) ?? '?'} dB` : 'Calibrate'}
          </Button>
        )}
      </div>
      <PlotHeight value={height}>
        {view === 'spectrum' ? <NoisePlot tone={tone} voice={voice} calibrated={tone.calibrated} /> : null}
        {view === 'noises' ? <NoiseList tone={tone} /> : null}
        {view === 'events' ? <EventList tone={tone} readingId={reading.id} /> : null}
      </PlotHeight>
      {calibrating ? <CalibrateSheet reading={reading} onClose={() => setCalibrating(false)} /> : null}
    </div>
  )
}

/** Third octaves of a take through the same chain, on the silence's scale. */
function useVoice(reading: ReadingOf<'tone'>): (readonly [number, number | null])[] | null {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const take = readings.find(
    (r) =>
      r.form === 'take' &&
      r.way !== 'import' && // nothing is known of a file's gain
      r.way === reading.way &&
      r.settings.device === reading.settings.device &&
      r.settings.gain_db === reading.settings.gain_db &&
      r.settings.gain === reading.settings.gain,
  )
  const sung = useReading(take?.id ?? null)
  if (!sung || !isOf(sung, 'take') || !sung.result.thirds?.length) return null
  const calibration = reading.settings.calibration_db ?? 0
  return sung.result.thirds.map((t) => [t.centre_hz, t.level_db === null ? null : t.level_db + calibration])
}
