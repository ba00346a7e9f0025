import type { Forecast } from '../api/client'
import { Button } from '../ui/button'

type Path = Forecast['paths'][number]
const word = (surface: string) =>
  surface
    .replace('ceiling-drop-', 'low ceiling ')
    .replace('ceiling-step-', 'step ')
    .replace('ceiling-', 'slope ')
    .replace('-', ' ')

/** Every reflection up to the second, in the order of arrival: when, how loud, over what. */
export function PathList({ forecast, onSoften }: { forecast: Forecast; onSoften: (path: Path) => void }) {
  const paths = forecast.paths
  const loudest = paths.length ? paths.reduce((a, b) => (b.level_db > a.level_db ? b : a)) : null
  return (
    <div>
      <h2 className="text-head">What comes back, and when?</h2>
      <p className="mb-1 text-note">
        {loudest
          ? `${loudest.where[0]!.toUpperCase()}${loudest.where.slice(1)} is loudest: ${loudest.level_db.toFixed(0).replace('-', '−')} dB, ${loudest.delay_ms.toFixed(1)} ms after you.`
          : 'Nothing comes back within two reflections.'}
      </p>
      <div className="max-h-44 overflow-y-auto rounded-lg border border-line" tabIndex={0} aria-label="Reflections">
        <table className="w-full border-collapse text-small">
          <thead className="sticky top-0 bg-card text-left text-ink-2">
            <tr>
              <th className="px-2 py-1 text-right font-semibold">After (ms)</th>
              <th className="px-2 text-right font-semibold">Level (dB)</th>
              <th className="px-2 font-semibold">From</th>
              <th className="px-2 font-semibold max-sm:hidden">Over</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {paths.map((p, i) => (
              <tr
                key={i}
                className={`border-t border-line ${p.level_db < -30 ? 'text-ink-2' : ''} ${p === loudest ? 'font-semibold' : ''}`}
              >
                <td className="px-2 text-right">{p.delay_ms.toFixed(1)}</td>
                <td className="px-2 text-right">{p.level_db.toFixed(1).replace('-', '−')}</td>
                <td className="px-2">{p.where}</td>
                <td className="px-2 text-ink-2 max-sm:hidden">{p.surfaces.map(word).join(', then ')}</td>
                <td className="px-2 text-right">
                  {p.order === 1 && p.level_db > -34 && /^(wall|floor|ceiling)/.test(p.surfaces[0]!) ? (
                    <Button
                      small
                      look="quiet"
                      className="min-h-6 px-2 text-fine"
                      onClick={() => onSoften(p)}
                      aria-label={`Try something soft where ${p.where} answers`}
                    >
                      Soften
                    </Button>
                  ) : null}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  )
}
