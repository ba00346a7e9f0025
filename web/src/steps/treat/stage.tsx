import type { Forecast } from '../../api/client'
import { BenchCard } from '../../rooms/bench-card'
import { Board } from '../../rooms/board'
import { useCatalogue } from '../../state/catalogue'
import { usePredicted } from '../../state/forecast'
import { TreatBench } from './bench'

/** The walls with the rings where sound lands, and what hangs; under them what may be hung. */
export function TreatStage() {
  const { active } = usePredicted()
  return (
    <>
      <Board question="What would help?" answer={<FirstLine forecast={active} />} className="min-h-56 flex-1" />
      <BenchCard className="h-[44%] shrink-0 overflow-y-auto pb-3 max-lg:h-auto">
        <TreatBench />
      </BenchCard>
    </>
  )
}

function FirstLine({ forecast }: { forecast: Forecast | null }) {
  const { sources } = useCatalogue()
  if (!forecast || sources.length === 0) return ''
  const loudest = forecast.paths.filter((p) => p.order === 1).sort((a, b) => b.level_db - a.level_db)[0]
  if (!loudest) return 'Nothing comes back first from any single wall.'
  return `${loudest.where[0]!.toUpperCase()}${loudest.where.slice(1)} sends most back: ${loudest.level_db.toFixed(0).replace('-', '−')} dB, ${loudest.delay_ms.toFixed(1)} ms after you. Rings show where sound lands; drag what hangs there.`
}
