import { QueryClient } from '@tanstack/react-query'

/** What was asked of the server, kept for the whole page: a room that is saved after its page was left tells it too. */
export const cache = new QueryClient({
  defaultOptions: {
    // the server is on this machine: a browser that says it is offline speaks of another network
    queries: { retry: 1, refetchOnWindowFocus: false, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
})
