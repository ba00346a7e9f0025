import { useMutation } from '@tanstack/react-query'
import { api, inWords, unwrap } from '../api/client'
import { saved } from '../ui/saved'
import { useRoom } from './room'

type FiledPath = '/api/marks-sheet.pdf' | '/api/make.pdf' | '/api/make.csv' | '/api/hours.ics' | '/api/hours.csv'

/** Hands out a question's answer as a file, named after the room; trouble : why there is none. */
export function useFiled() {
  const { id, document, active } = useRoom()
  const keep = useMutation({
    mutationFn: async ({ path, name }: { path: FiledPath; name: string }) => {
      const body = { document, arrangement_id: active.id, room_id: id }
      const file = unwrap(await api.POST(path, { body, parseAs: 'blob' }))
      saved(file, `${document.name} ${name}${path.slice(path.lastIndexOf('.'))}`)
    },
  })
  return {
    keep: (path: FiledPath, name: string) => keep.mutate({ path, name }),
    trouble: keep.error ? inWords(keep.error).title : null,
  }
}
