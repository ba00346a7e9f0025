import { useMemo } from 'react'
import { useQuery } from '@tanstack/react-query'
import type { Catalogue, KindInfo } from '../api/client'
import { roomQueries } from '../api/queries'

const NOTHING: Catalogue = {
  diffusing: '',
  edits: {},
  faults: [],
  take_faults: [],
  findings: [],
  threads: [],
  nothing_arrives: [],
  furnishings: [],
  kinds: [],
  materials: [],
  microphone_cautions: {},
  noises: [],
  days: [],
  patterns: [],
  pieces: [],
  prices: [],
  purposes: [],
  sources: [],
  sounds: [],
}

/** What the server knows by name: materials, kinds of readings, patterns, words. A room waits for it before it opens. */
export const useCatalogue = (): Catalogue => useQuery(roomQueries.catalogue()).data ?? NOTHING

const UNKNOWN: KindInfo = {
  key: '',
  name: 'Reading',
  form: '',
  tells: '',
  short: '',
  seconds: 0,
  cue: '',
  steps: ['', '', ''],
  good_dbfs: [-30, -4],
  caution: '',
  settles: [],
  by_loudspeaker: false,
  starts_itself: false,
  averaged: false,
  shown: false,
  by_hand: false,
  ways: [],
  also: [],
}

/** What can be read, and each kind by its key. */
export function useKinds(): { kinds: readonly KindInfo[]; kindOf: (key: string) => KindInfo } {
  const { kinds } = useCatalogue()
  return { kinds, kindOf: (key) => kinds.find((k) => k.key === key) ?? { ...UNKNOWN, key, name: key || UNKNOWN.name } }
}

/** Kinds of furniture by their keys. */
export function useFurnishingKinds() {
  const { furnishings } = useCatalogue()
  return useMemo(() => Object.fromEntries(furnishings.map((kind) => [kind.key, kind])), [furnishings])
}
