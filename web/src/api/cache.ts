import { keepPreviousData, QueryClient } from '@tanstack/react-query'

/** What was asked of the server, kept for the whole page: a room that is saved after its page was left tells it too. */
export const cache = new QueryClient({
  defaultOptions: {
    // the server is on this machine: a browser that says it is offline speaks of another network
    queries: { retry: 1, refetchOnWindowFocus: false, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
})

// what is posted are questions about a document: their figures follow from it alone, and the last ones stay in sight
// until the next are here
cache.setQueryDefaults(['post'], {
  placeholderData: keepPreviousData,
  staleTime: Infinity,
  gcTime: 60_000,
  retry: false,
})
// recordings do not change
const RECORDED = ['', '/wave', '/room-tone', ...['by-line', 'same-words', 'put-back', 'sides', 'hum', 'splice'].map((two) => `/${two}/{other_id}`)] // prettier-ignore
for (const about of RECORDED)
  cache.setQueryDefaults(['get', `/api/readings/{reading_id}${about}`], {
    staleTime: Infinity,
    gcTime: 120_000,
    retry: false,
  })
for (const path of ['/api/catalogue', '/api/hum-tree', '/api/rooms/{room_id}', '/api/thresholds/{what}'])
  cache.setQueryDefaults(['get', path], { staleTime: Infinity })

/** All that is told of one room is asked anew: its readings, marks, ledger, watches, songs. */
export const roomChanged = (id: string) =>
  cache.invalidateQueries({
    predicate: ({ queryKey: [, path, init] }) =>
      String(path).startsWith('/api/rooms/{room_id}') && JSON.stringify(init).includes(`"${id}"`),
  })

/** The list of rooms and how they stand to each other are asked anew. */
export const roomsChanged = async () => {
  await cache.invalidateQueries({ queryKey: ['get', '/api/rooms'] })
  await cache.invalidateQueries({ queryKey: ['get', '/api/places'] })
}
