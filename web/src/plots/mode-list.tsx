import type { Forecast } from '../api/client'

type Mode = Forecast['modes'][number]
const KIND_WORDS: Record<string, string> = {
  axial: 'between two walls',
  tangential: 'around four walls',
  oblique: 'all six walls',
  plan: 'across the floor',
  height: 'floor to ceiling',
  section: 'across the section',
  length: 'end to end',
  mixed: 'floor and height together',
  room: 'the whole room',
}

/** Every note the room swells on: pitch, how long it rings, how much of it is heard at the microphone. Choosing one paints it. */
export function ModeList({
  forecast,
  chosenHz,
  onChoose,
}: {
  forecast: Forecast
  chosenHz: number | null
  onChoose: (hz: number) => void
}) {
  const modes = forecast.modes.filter((m) => m.f_hz <= forecast.shape.top_hz)
  const longest = Math.max(...modes.map((m) => m.t60_s))
  const gaps = modes.slice(1).map((m, i) => ({ hz: m.f_hz - modes[i]!.f_hz, at: modes[i]!.f_hz }))
  const widest = gaps.filter((g) => g.at < 160).reduce((a, b) => (b.hz > a.hz ? b : a), { hz: 0, at: 0 })
  return (
    <div>
      <h2 className="text-head">Which notes swell, and for how long?</h2>
      <p className="mb-1 text-note">
        {modes.length} swells up to {forecast.shape.top_hz.toFixed(0)} Hz; the first at{' '}
        {forecast.first_mode_hz.toFixed(0)} Hz
        {forecast.in_voice_range
          ? ', among the notes of a voice: a small place colours what you perform, not only the bass'
          : ''}
        .{widest.hz > 12 ? ` Widest gap ${widest.hz.toFixed(0)} Hz, above ${widest.at.toFixed(0)} Hz.` : ''}
      </p>
      <div className="max-h-44 overflow-y-auto rounded-lg border border-line" tabIndex={0} aria-label="Swells">
        <table className="w-full border-collapse text-small">
          <thead className="sticky top-0 bg-card text-left text-ink-2">
            <tr>
              <th className="px-2 py-1 font-semibold">Note</th>
              <th className="px-2 text-right font-semibold">Hz</th>
              <th className="px-2 font-semibold max-sm:hidden">Runs</th>
              <th className="w-2/5 px-2 font-semibold">Rings (s)</th>
              <th className="px-2 text-right font-semibold">Heard (dB)</th>
            </tr>
          </thead>
          <tbody>
            {modes.map((m) => (
              <Row
                key={m.f_hz}
                mode={m}
                longest={longest}
                on={chosenHz !== null && Math.abs(chosenHz - m.f_hz) < 0.01}
                onChoose={() => onChoose(m.f_hz)}
              />
            ))}
          </tbody>
        </table>
      </div>
    </div>
  )
}

function Row({ mode, longest, on, onChoose }: { mode: Mode; longest: number; on: boolean; onChoose: () => void }) {
  const cents = mode.cents === 0 ? '' : `${mode.cents > 0 ? '+' : '−'}${Math.abs(mode.cents)} ct`
  const share = mode.t60_s / longest
  return (
    <tr className={`border-t border-line ${on ? 'bg-change-soft' : !mode.is_heard ? 'text-ink-2' : ''}`}>
      <td className="px-2">
        <button
          className="font-semibold underline decoration-dotted underline-offset-2"
          onClick={onChoose}
          aria-label={`Paint the swell of ${mode.note}, ${mode.f_hz.toFixed(1)} Hz`}
        >
          {mode.note}
        </button>{' '}
        <span className="text-fine text-ink-2">{cents}</span>
      </td>
      <td className="px-2 text-right">{mode.f_hz.toFixed(1)}</td>
      <td className="px-2 text-ink-2 max-sm:hidden">
        {KIND_WORDS[mode.kind] ?? mode.kind}
        {mode.indices ? ` (${mode.indices.join(' ')})` : ''}
      </td>
      <td className="px-2">
        <span className="flex items-center gap-2">
          <span
            className="h-2 rounded-full bg-boom"
            style={{ width: `${Math.max(share * 75, 3)}%`, opacity: mode.is_heard ? 0.9 : 0.4 }}
          />
          {mode.t60_s.toFixed(2)}
        </span>
      </td>
      <td className="px-2 text-right">{mode.heard_db.toFixed(0).replace('-', '−')}</td>
    </tr>
  )
}
