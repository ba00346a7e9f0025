import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react'
import { useMutation } from '@tanstack/react-query'
import { useCallback, useState } from 'react'
import { cache, roomChanged } from '../api/cache'
import { api, type KindInfo, type Reading, unwrap } from '../api/client'
import { ofRoom, roomQueries } from '../api/queries'
import { Drawing } from '../room/drawing'
import { bare } from '../room/layers/bare'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Failed, Notice } from '../ui/notice'
import { Segmented } from '../ui/segmented'
import { BringFiles } from './bring-files'
import type { Way } from './ways'
import { PracticeRig } from './practice-rig'
import { Stage } from './stage'
import { BigVerdict } from './verdict'

const WAYS: readonly { key: Way; name: string }[] = [
  { key: 'browser', name: 'Record here' },
  { key: 'import', name: 'Bring files' },
  { key: 'rig', name: 'Practice rig' },
]

/** One calm place for one reading: where to stand, what to do, a level, a verdict. */
export function MeasuringPlace({
  kind: info,
  backTo,
  onTaken = () => undefined,
  onClose,
}: {
  kind: KindInfo
  /** What asked for it and is gone back to, where that is not the readings. */
  backTo: string | null
  onTaken?: () => void
  /** With the reading that was taken last, if any. */
  onClose: (last: string | null) => void
}) {
  const onlyFiles = info.ways.length === 1
  const { id, trying } = useRoom()
  const [way, setWay] = useState<Way>(onlyFiles ? 'import' : 'browser')
  const [shown, setShown] = useState<Reading | null>(null)
  const [repeats, setRepeats] = useState<Reading[]>([])
  const [recorded, setRecorded] = useState(false)
  const [busy, setBusy] = useState(false)
  const [last, setLast] = useState<string | null>(null)
  const onBusy = useCallback((now: boolean) => setBusy(now), [])
  const taken = async (reading: Reading, show = true) => {
    cache.setQueryData(roomQueries.reading(reading.id).queryKey, reading)
    await roomChanged(id)
    if (reading.verdict.usable) setRepeats((now) => [...now, reading])
    if (show) setShown(reading)
    setLast(reading.id)
    onTaken()
  }
  const average = useMutation({
    mutationFn: async () =>
      unwrap(
        await api.POST('/api/rooms/{room_id}/readings/average', {
          ...ofRoom(id),
          body: { reading_ids: repeats.map((r) => r.id) },
        }),
      ),
    onSuccess: async (reading) => {
      setRepeats([])
      await taken({ ...reading })
    },
  })
  const again = () => setShown(null)
  return (
    <Dialog open onClose={() => (busy ? undefined : onClose(last))} className="relative z-50">
      <div className="fixed inset-0 overflow-auto bg-paper">
        <DialogPanel
          className="mx-auto flex min-h-full max-w-[1280px] flex-col px-6 pb-6 max-sm:px-4"
          data-testid="measuring-place"
        >
          <div className="flex flex-wrap items-center gap-x-5 gap-y-2 border-b border-line py-3">
            <DialogTitle className="font-display max-sm:order-first text-large font-bold max-sm:text-title">
              {info.name}
            </DialogTitle>
            <p className="min-w-0 flex-1 text-ink-2 max-lg:hidden">{info.tells}</p>
            {onlyFiles ? null : (
              <Segmented
                small
                label="How"
                value={way}
                options={WAYS}
                onChange={(to) => {
                  setWay(to)
                  setShown(null)
                }}
              />
            )}
            <Button small onClick={() => onClose(last)} className="max-sm:order-first max-sm:ml-auto">
              Close
            </Button>
          </div>
          <div className="grid flex-1 grid-cols-[minmax(0,5fr)_minmax(0,6fr)] gap-8 pt-4 max-lg:grid-cols-1 max-lg:gap-3">
            <div className="flex flex-col justify-center max-lg:order-2">
              <div
                className="pointer-events-none relative aspect-[5/4] max-lg:aspect-auto max-lg:h-[240px]"
                aria-hidden
                inert
              >
                <Drawing layer={bare} small />
              </div>
              <p className="pt-1 text-center text-note text-ink-2">
                {info.by_loudspeaker
                  ? 'Loudspeaker where the performer’s cross is, microphone on its own.'
                  : 'You on your cross, the microphone on its own.'}
              </p>
            </div>
            <div className="flex flex-col justify-center gap-5 max-lg:order-1 max-lg:justify-start">
              {trying ? (
                <Notice
                  tone="care"
                  title="A move is being tried on the drawing."
                  body="The reading will be filed under it. Put it back first if the room is as it was."
                />
              ) : null}
              {shown ? (
                <div className="space-y-4">
                  <BigVerdict reading={shown} />
                  <div className="flex flex-wrap gap-2">
                    <Button look={shown.verdict.usable ? 'main' : 'plain'} onClick={() => onClose(last)}>
                      {backTo ? `Back to ${backTo}` : 'See what it says'}
                    </Button>
                    <Button look={shown.verdict.usable ? 'plain' : 'main'} onClick={again}>
                      {shown.verdict.usable ? 'Take it again' : 'Try again'}
                    </Button>
                    {info.averaged && repeats.length > 1 ? (
                      <Button disabled={average.isPending} onClick={() => average.mutate()}>
                        Average these {repeats.length}
                      </Button>
                    ) : null}
                  </div>
                  {info.averaged && repeats.length === 1 && shown.verdict.usable ? (
                    <p className="text-note text-ink-2">
                      Where noise hides the end of the decay, take two or three and average them.
                    </p>
                  ) : null}
                  <Failed error={average.error} />
                </div>
              ) : (
                <>
                  {busy || way === 'rig' ? null : (
                    <ol className="space-y-2">
                      {info.steps.map((text, i) => (
                        <li key={text} className="flex gap-3 text-head leading-snug">
                          <span aria-hidden className="font-display text-title leading-none font-bold text-change">
                            {i + 1}
                          </span>
                          {text}
                        </li>
                      ))}
                    </ol>
                  )}
                  {way === 'browser' ? (
                    <Stage
                      kind={info}
                      again={recorded}
                      onTaken={async (reading) => {
                        setRecorded(true)
                        await taken(reading)
                      }}
                      onBusy={onBusy}
                    />
                  ) : null}
                  {way === 'import' ? <BringFiles kind={info} onTaken={taken} /> : null}
                  {way === 'rig' ? <PracticeRig kind={info} onTaken={taken} /> : null}
                </>
              )}
            </div>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  )
}
