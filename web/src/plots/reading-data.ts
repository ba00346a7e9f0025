import type { ResultOf, Schemas } from '../api/client'

export type Band = Schemas['BandAnswer']
export type ResponseResult = ResultOf<'response'>
export type ToneResult = ResultOf<'tone'>
export type GlideResult = ResultOf<'glide'>
export type TakeResult = ResultOf<'take'>
export type TapeCheck = Schemas['TapeAnswer']

/** The decay time of a band by the longest range that was free of noise. [s] */
export const bestT = (band: Band) => band.t30_s ?? band.t20_s ?? band.edt_s
const FLAG_WORDS: Record<string, string> = {
  t20_low_range: 'too much noise for T20',
  t30_low_range: 'too much noise for T30',
  edt_low_range: 'too much noise for EDT',
  t20_filter_limited: 'shorter than the filter itself',
  t30_filter_limited: 'shorter than the filter itself',
  edt_filter_limited: 'shorter than the filter itself',
  bent_decay: 'the decay bends',
  t20_scatters: 'T20 of so short a decay scatters by a quarter',
  t30_scatters: 'T30 of so short a decay scatters by a quarter',
  c50_low_range: 'what comes after 50 ms lies in the noise',
  c80_low_range: 'what comes after 80 ms lies in the noise',
  clarity_low_range: 'too much noise for C50 and D50',
  no_decay: 'no decay found',
}
export const flagWords = (flags: readonly string[]) => flags.map((f) => FLAG_WORDS[f] ?? f).join(', ')
