import { useQuery } from '@tanstack/react-query'
import { cache } from '../api/cache'
import { useEffect } from 'react'
import { roomQueries } from '../api/queries'

/** What still comes into the data folder, told at the foot of the page; what arrived is shown as it comes. */
export function Preparing() {
  const job = useQuery(roomQueries.preparing()).data?.preparing ?? null
  const share = job?.progress ?? null
  useEffect(() => {
    if (share === null) return
    // each further reading, and once more when the last one is in
    return () => void cache.invalidateQueries({ queryKey: ['get'] })
  }, [share])
  if (!job) return null
  return (
    <p
      role="status"
      className="fixed inset-x-0 bottom-3 z-40 mx-auto w-fit max-w-[92vw] rounded-full border border-line bg-card px-4 py-1.5 text-note shadow-card"
    >
      {job.what}: {Math.round(job.progress * 100)} %. Figures turn from predicted to measured as they come.
    </p>
  )
}
