import { useSearchParams } from 'react-router-dom'
import { $api } from '../api/client'
import { useSettled } from './use-settled'

export const MAPPED = [
  { key: 'all', name: 'Together' },
  { key: 'bounce', name: 'Bounce' },
  { key: 'boom', name: 'Boom' },
  { key: 'hush', name: 'Hush' },
] as const
export type Mapped = (typeof MAPPED)[number]['key']
export const HEIGHTS = [
  { key: 'now', name: 'As now', metres: null },
  { key: 'standing', name: 'Standing', metres: 1.52 },
  { key: 'seated', name: 'Seated', metres: 1.15 },
] as const
type Height = (typeof HEIGHTS)[number]['key']

/** The place map that is looked at; which one is part of the address. */
export function usePlaceMap() {
  const { ask, enabled } = useSettled()
  const [search, setSearch] = useSearchParams()
  const mark = (MAPPED.find((m) => m.key === search.get('map')) ?? MAPPED[0]).key
  const height = HEIGHTS.find((h) => h.key === search.get('height')) ?? HEIGHTS[0]
  const put = (key: string) => (value: string) =>
    setSearch((now) => new URLSearchParams({ ...Object.fromEntries(now), [key]: value }), { replace: true })
  const { data, error } = $api.useQuery(
    'post',
    '/api/map',
    { body: { ...ask, mark, height_m: height.metres, step_m: 0.1 } },
    { enabled },
  )
  return {
    map: data,
    error,
    mark,
    height: height.key as Height,
    setMark: put('map') as (mark: Mapped) => void,
    setHeight: put('height') as (height: Height) => void,
  }
}
