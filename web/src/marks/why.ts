import type { Forecast, MarkKey } from '../api/client'
import { shortText, type Units } from '../state/units'

const db = (value: number, digits = 0) => `${value.toFixed(digits).replace('-', '−')} dB`

/** The figures behind a mark, one click below its sentence. */
export function whyRows(mark: MarkKey, forecast: Forecast, units: Units): [string, string][] {
  const { bounce, boom, hush, touch } = forecast.marks
  switch (mark) {
    case 'bounce':
      return [
        ['Strongest early return', `${db(bounce.strongest_early_db)} after ${bounce.strongest_early_ms.toFixed(1)} ms`],
        ['Decay, 500 Hz to 1 kHz', `${bounce.decay_s.toFixed(2)} s ±${bounce.decay_plus_minus_s.toFixed(2)}`],
        ['You and the room are equal at', shortText(bounce.critical_distance_m, units)],
        ['Below this each note is its own', `${forecast.schroeder_hz.toFixed(0)} Hz`],
      ]
    case 'boom':
      return [
        ['Longest note heard', `${boom.note_hz.toFixed(0)} Hz`],
        ['Swing of the low end', `${db(boom.swing_db)} ±${boom.swing_plus_minus_db.toFixed(0)}`],
      ]
    case 'hush':
      return [
        ['Noise at the microphone', `${hush.noise_dba.toFixed(0)} dB(A)`],
        ['Performance there', `${hush.performance_dba.toFixed(0)} dB(A)`],
        ...Object.entries(hush.sources_dba)
          .sort((a, b) => b[1] - a[1])
          .slice(0, 4)
          .map(([name, level]): [string, string] => [name, `${level.toFixed(0)} dB(A)`]),
      ]
    case 'touch':
      return [
        ['Distance', shortText(touch.distance_m, units)],
        ['Bass lift at 100 Hz', db(touch.proximity_db, 1)],
        [`Leaning in ${shortText(0.05, units)}`, `+${db(touch.sway_db, 1)}`],
        ['Mouth off the axis', `${touch.off_axis_deg.toFixed(0)}°`],
      ]
  }
}
