import { useMutation } from '@tanstack/react-query'
import { useCallback, useEffect, useState } from 'react'
import { roomChanged } from '../api/cache'
import { $api, inWords } from '../api/client'
import { ofRoom, uploadReading } from '../api/queries'
import { type Kept, keptFor, letGo } from '../record/kept'
import { dropSong, fileSong } from '../record/song'
import { useKinds } from '../state/catalogue'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Notice } from '../ui/notice'
import { clockOf } from './rolling'
import { useBack } from '../ui/use-back'

/** Songs that the server keeps: the page was closed, or the disk was full, before they were filed. */
function SongsNotFiled() {
  const { id } = useRoom()
  const { data: songs = [] } = $api.useQuery('get', '/api/rooms/{room_id}/songs', ofRoom(id))
  const settle = useMutation({
    mutationFn: async (act: () => Promise<unknown>) => act(),
    onSuccess: () => roomChanged(id),
  })
  if (songs.length === 0) return null
  return (
    <Notice tone="care" title="A song was not filed." body="What was sung until the recording stopped is kept.">
      <ul className="mt-1 space-y-1">
        {songs.map((song) => (
          <li key={song.id} className="flex flex-wrap items-center gap-2">
            <span className="min-w-0 flex-1">
              {clockOf(song.seconds)} min, {new Date(song.began_at).toLocaleString()}
            </span>
            <Button
              small
              look="main"
              disabled={settle.isPending}
              onClick={() => settle.mutate(() => fileSong(song.id))}
            >
              File it now
            </Button>
            <Button
              small
              look="quiet"
              disabled={settle.isPending}
              onClick={() => settle.mutate(() => dropSong(song.id))}
            >
              Drop it
            </Button>
          </li>
        ))}
      </ul>
      {settle.isError ? (
        <p className="mt-1 font-semibold text-bounce">
          {inWords(settle.error).title} {inWords(settle.error).cure}
        </p>
      ) : null}
    </Notice>
  )
}

/** Recordings that were made but never filed: the page was closed or the disk was full. */
export function NotFiled() {
  const { id } = useRoom()
  const { kindOf } = useKinds()
  const [waiting, setWaiting] = useState<Kept[]>([])
  const look = useCallback(() => void keptFor(id).then(setWaiting), [id])
  useEffect(look, [look])
  const file = useMutation({
    mutationFn: async (kept: Kept) => {
      await uploadReading(id, kept.wav, {
        kind: kept.kind,
        way: 'browser',
        arrangementId: kept.arrangementId,
        fileName: `recorded-${kept.kind}.wav`,
        settings: kept.settings,
        key: kept.id,
      })
      await letGo(kept.id)
    },
    onSuccess: async () => {
      look()
      await roomChanged(id)
    },
  })
  const next = waiting[0]
  useBack(file.error instanceof TypeError && !file.isPending && next !== undefined, () => next && file.mutate(next))
  if (waiting.length === 0) return <SongsNotFiled />
  return (
    <Notice
      tone="care"
      title={waiting.length === 1 ? 'A recording was not filed.' : `${waiting.length} recordings were not filed.`}
      body="This browser kept what could not be sent."
    >
      <ul className="mt-1 space-y-1">
        {waiting.map((kept) => (
          <li key={kept.id} className="flex flex-wrap items-center gap-2">
            <span className="min-w-0 flex-1">
              {kindOf(kept.kind).name}, {new Date(kept.takenAt).toLocaleString()}
            </span>
            <Button small look="main" disabled={file.isPending} onClick={() => file.mutate(kept)}>
              File it now
            </Button>
            <Button small look="quiet" onClick={() => void letGo(kept.id).then(look)}>
              Drop it
            </Button>
          </li>
        ))}
      </ul>
      {file.isError ? (
        <p className="mt-1 font-semibold text-bounce">
          {inWords(file.error).title} {inWords(file.error).cure}
        </p>
      ) : null}
    </Notice>
  )
}
