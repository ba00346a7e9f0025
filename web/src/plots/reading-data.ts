/** What a reading's result holds for the plots; docs/formats.md says it in full. */
export type Band = {
  centre_hz: number
  edt_s: number | null
  t20_s: number | null
  t30_s: number | null
  c50_db: number | null
  c80_db: number | null
  d50: number | null
  ts_ms: number | null
  inr_db: number
  flags: string[]
}
export type CurvedBand = Band & { curve_s: number[]; curve_db: number[] }
export type Surface = { f_hz: number[]; time_s: number[]; level_db: number[][] }
export type TapeCheck = {
  agrees: boolean | null
  sentence: string
  off_m: number | null
  returns: { where: string; drawn_ms: number; heard_ms: number | null; off_m: number | null }[]
}
export type Early = { delay_ms: number; level_db: number; where: string | null; predicted_db: number | null }
export type Ringing = {
  f_hz: number
  t60_s: number
  level_db: number
  note: string
  mode: { f_hz: number; t60_s: number; indices: number[] } | null
}
export type ResponseResult = {
  bands: CurvedBand[]
  thirds?: Band[]
  surface?: Surface
  tape?: TapeCheck | null
  t_mid_s: number | null
  early: Early[]
  ringing: Ringing[]
  flutter: { rate_hz: number; spacing_m: number; strength_db: number; between?: string[] | null } | null
  direct_over_room_db: number | null
  low_end: { f_hz: number[]; level_db: number[]; smooth_db: (number | null)[] }
  energy_time: { time_ms: number[]; level_db: number[] }
  trusted_above_hz?: number
  sweep?: { delay_ms: number; clock_ppm: number; snr_db: number; distortion_pct: number }
}
export type ToneResult = {
  calibrated: boolean
  laeq_db: number
  l90_db: number
  thirds: { centre_hz: number; level_db: number | null }[]
  nc: number | null
  nr: number | null
  tones: { f_hz: number; level_db: number; prominence_db: number; kind: string }[]
  events: { start_s: number; end_s: number; rise_db: number; kind?: string }[]
  noises?: { kind: string; f_hz: number; harmonics: number[]; level_db: number; cure: string }[]
}
export type GlideResult = {
  swells: { f_hz: number; rise_db: number; note: string; mode?: { f_hz: number; t60_s: number; kind: string } | null }[]
  pitch_low_hz: number
  pitch_high_hz: number
  curve: { f_hz: number[]; rise_db: number[] }
}
export type TakeResult = {
  loudness_lufs: number | null
  true_peak_dbtp: number
  average_dbfs: number
  active_dba: number
  noise_floor_dbfs: number | null
  snr_db: number | null
  gain_advice_db: number
  findings: { kind: string; start_s: number; end_s: number; value: number; unit: string; cure: string }[]
  blocks_db: number[]
  thirds: { centre_hz: number; level_db: number | null }[]
}

export const isResponse = (kind: string) => kind === 'sweep' || kind === 'ir' || kind === 'clap'
export const bestT = (band: Band) => band.t30_s ?? band.t20_s ?? band.edt_s
const FLAG_WORDS: Record<string, string> = {
  t20_low_range: 'too much noise for T20',
  t30_low_range: 'too much noise for T30',
  edt_low_range: 'too much noise for EDT',
  t20_filter_limited: 'shorter than the filter itself',
  t30_filter_limited: 'shorter than the filter itself',
  edt_filter_limited: 'shorter than the filter itself',
  bent_decay: 'the decay bends',
  clarity_low_range: 'too much noise for C50 and D50',
  no_decay: 'no decay found',
}
export const flagWords = (flags: readonly string[]) => flags.map((f) => FLAG_WORDS[f] ?? f).join(', ')
