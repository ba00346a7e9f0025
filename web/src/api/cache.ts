import { QueryClient } from '@tanstack/react-query'

/** What was asked of the server, kept for the whole page: a room that is saved after its page was left tells it too. */
export const cache = new QueryClient({ defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false } } })
