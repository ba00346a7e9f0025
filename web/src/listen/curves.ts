import type { Reading } from '../api/client'
import { OCTAVES_HZ, pitchAxis } from '../plots/axis'
import { bestT } from '../plots/reading-data'
import type { Axis, XY } from '../plots/xy-plot'

export type Look = 'decay' | 'clarity' | 'low' | 'noise' | 'voice' | 'glide'

const OCTAVES = pitchAxis([52, 9600], OCTAVES_HZ)
const LOW = pitchAxis([20, 300], [20, 30, 50, 80, 120, 200, 300])
const ALL = pitchAxis([24, 10600], [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000])

/** What readings can be laid beside each other by. */
export const LOOKS: readonly { key: Look; name: string; question: string; unit: string; differ: string; axis: Axis }[] =
  [
    {
      key: 'decay',
      name: 'Decay',
      question: 'How long does each hang on?',
      unit: 's',
      differ: 'time to fade',
      axis: OCTAVES,
    },
    {
      key: 'clarity',
      name: 'Clarity',
      question: 'How clear is each (C50)?',
      unit: 'dB',
      differ: 'early over late',
      axis: OCTAVES,
    },
    { key: 'low', name: 'Low end', question: 'Which notes swell in each?', unit: 'dB', differ: 'level', axis: LOW },
    {
      key: 'noise',
      name: 'Noise',
      question: 'What is there when nobody plays?',
      unit: 'dB',
      differ: 'level',
      axis: ALL,
    },
    {
      key: 'voice',
      name: 'Sound',
      question: 'How does the sound differ by pitch?',
      unit: 'dB',
      differ: 'level',
      axis: ALL,
    },
    {
      key: 'glide',
      name: 'Swells',
      question: 'On which notes does the room swell?',
      unit: 'dB',
      differ: 'over the notes around',
      axis: pitchAxis([55, 500], [60, 80, 100, 150, 200, 300, 400, 500]),
    },
  ]

/** A reading's curve for one look, empty where it has none. */
export function curvesOf({ result }: Pick<Reading, 'result'>, look: Look): XY[] {
  switch (result.form) {
    case 'response':
      if (look === 'decay') return result.bands.map((b) => [b.centre_hz, bestT(b)])
      if (look === 'clarity') return result.bands.map((b) => [b.centre_hz, b.c50_db])
      return look === 'low' && result.low_end ? centred(result.low_end.f_hz, result.low_end.smooth_db) : []
    case 'curve':
      return look === 'low' ? centred(result.curve.f_hz, result.curve.level_db) : []
    case 'tone':
      return look === 'noise' ? result.thirds.map((t) => [t.centre_hz, t.level_db]) : []
    case 'glide': {
      const { curve } = result
      return look === 'glide' && curve ? curve.f_hz.map((f, i) => [f, curve.rise_db[i] ?? null]) : []
    }
    case 'take': {
      // level-matched: what differs is the colour, not how near somebody stood
      const loud = result.loudness_lufs ?? 0
      const thirds = look === 'voice' ? (result.thirds ?? []) : []
      return thirds.map((t) => [t.centre_hz, t.level_db === null ? null : t.level_db - loud])
    }
  }
}

/** Levels between 20 and 300 Hz about their own mean above 60 Hz. */
function centred(f: readonly number[], level: readonly (number | null)[]): XY[] {
  const inside = level.flatMap((v, i) => (v !== null && f[i]! >= 60 && f[i]! <= 300 ? [v] : []))
  const mean = inside.reduce((a, b) => a + b, 0) / Math.max(inside.length, 1)
  return f.flatMap((x, i) => (x >= 20 && x <= 300 ? [[x, level[i] === null ? null : level[i]! - mean] as const] : []))
}

/** A curve's value at any pitch, between its points along the logarithm; null outside and beside holes. */
export function valueAt(curve: readonly XY[], x: number): number | null {
  for (let i = 0; i < curve.length; i += 1) {
    const [x1, y1] = curve[i]!
    if (Math.abs(x1 / x - 1) < 1e-6) return y1
    const next = curve[i + 1]
    if (!next || x1 > x || next[0] < x) continue
    if (y1 === null || next[1] === null) return null
    const share = Math.log(x / x1) / Math.log(next[0] / x1)
    return y1 + (next[1] - y1) * share
  }
  return null
}

/** Each later curve less the first, at the first one's points. */
export function differences(curves: readonly XY[][]): XY[][] {
  const [first, ...others] = curves
  if (!first) return []
  return others.map((curve) =>
    first.map(([x, y]) => {
      const value = valueAt(curve, x)
      return [x, y === null || value === null ? null : value - y] as const
    }),
  )
}

/** Mean over curves at the first one's points, and one standard deviation above and below. */
export function meanAndSpread(curves: readonly XY[][]): [XY[], XY[], XY[]] {
  const lines: [XY[], XY[], XY[]] = [[], [], []]
  for (const [x] of curves[0] ?? []) {
    const values = curves.map((c) => valueAt(c, x)).filter((v): v is number => v !== null)
    const mean = values.length ? values.reduce((a, b) => a + b, 0) / values.length : null
    const spread =
      values.length > 1 ? Math.sqrt(values.reduce((a, b) => a + (b - mean!) ** 2, 0) / (values.length - 1)) : null
    lines[0].push([x, mean])
    lines[1].push([x, mean === null || spread === null ? null : mean + spread])
    lines[2].push([x, mean === null || spread === null ? null : mean - spread])
  }
  return lines
}
