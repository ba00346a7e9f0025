import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Fragment, useCallback, useEffect, useState } from 'react'
import { api, type Form, inWords, type ReadingSummary, unwrap } from '../../api/client'
import { roomQueries, uploadReading } from '../../api/queries'
import { WAY_WORDS } from '../../listen/ways'
import { MeasuringPlace } from '../../listen/measuring-place'
import { ReadingsSheet } from '../../listen/readings-sheet'
import { Verdict } from '../../listen/verdict'
import { type Kept, keptFor, letGo } from '../../record/kept'
import { useDesk } from '../../rooms/desk'
import { useKinds } from '../../state/catalogue'
import { useRoom } from '../../state/room'
import { Bin } from '../../ui/bin'
import { Button } from '../../ui/button'
import { Notice } from '../../ui/notice'
import { useBack } from '../../ui/use-back'
import { FitSection } from './fit'

export const ListenSide = () => <Readings />

/** Taking readings, of one form or of every kind on the first page, and those taken so far. */
export function Readings({ form = null, fallback = null }: { form?: Form | null; fallback?: string | null }) {
  const { id } = useRoom()
  const { kinds, kindOf } = useKinds()
  const { reading, open, taking, take, table, openTable, close } = useDesk()
  const chosen = reading ?? fallback
  const offered = kinds.filter((k) => (form ? k.form === form : k.shown))
  const brought = kinds.filter((k) => !k.shown)
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const shown = form ? readings.filter((r) => r.form === form) : readings
  const { data: binned = [] } = useQuery(roomQueries.binnedReadings(id))
  const client = useQueryClient()
  const takeOut = useMutation({
    mutationFn: async (readingId: string) =>
      unwrap<ReadingSummary>(
        await api.POST('/api/readings/{reading_id}/restore', { params: { path: { reading_id: readingId } } }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['room', id] }),
  })
  const current = shown.find((r) => r.id === chosen)
  return (
    <div className="space-y-3">
      <section aria-label="Take a reading" data-testid="take-reading">
        <h2 className="mb-1.5 text-[1.1rem]">Take a reading</h2>
        <ul className="grid grid-cols-2 gap-1.5">
          {offered.map((kind) => (
            <li key={kind.key}>
              <button
                onClick={() => take(kind.key)}
                className="h-full w-full rounded-xl border border-line-strong bg-paper px-3 py-1.5 text-left hover:bg-floor"
              >
                <span className="block font-semibold">
                  <span className="sr-only">Read: </span>
                  {kind.name}
                </span>
                <span className="block text-[0.8rem] leading-tight text-ink-2">{kind.short}</span>
              </button>
            </li>
          ))}
        </ul>
        {form ? null : (
          <p className="mt-1.5 text-[0.88rem] text-ink-2">
            Measured elsewhere?{' '}
            {brought.map((kind, i) => (
              <Fragment key={kind.key}>
                {i ? ' or ' : ''}
                <button
                  className="font-semibold text-ink underline decoration-line-strong underline-offset-2"
                  onClick={() => take(kind.key)}
                >
                  {i ? '' : 'Bring '}
                  {kind.short}
                </button>
              </Fragment>
            ))}
            .
          </p>
        )}
      </section>
      {taking ? null : <NotFiled />}
      {current ? <Verdict reading={current} /> : null}
      <section>
        <div className="mb-1 flex items-baseline justify-between">
          <h3 className="font-semibold">Taken so far</h3>
          {readings.length ? (
            <Button small look="quiet" onClick={openTable}>
              Table and compare
            </Button>
          ) : null}
        </div>
        {shown.length === 0 ? (
          <p className="text-[0.92rem] text-ink-2">
            None yet. A sweep and a silence tell most; the practice rig shows how it goes.
          </p>
        ) : (
          <ul>
            {shown.map((reading) => (
              <Row
                key={reading.id}
                reading={reading}
                chosen={reading.id === chosen}
                onChoose={() => open(reading.id)}
              />
            ))}
          </ul>
        )}
        <Bin
          things={binned.map((r) => ({
            id: r.id,
            name: `${kindOf(r.kind).name}, ${new Date(r.taken_at).toLocaleString()}`,
          }))}
          onTakeOut={(readingId) => takeOut.mutate(readingId)}
        />
      </section>
      {form ? null : (
        <FitSection readings={shown.filter((r) => r.form === 'response' && r.counts && r.verdict.usable).length} />
      )}
      {taking ? (
        <MeasuringPlace key={taking} kind={kindOf(taking)} onClose={(last) => (last ? open(last, true) : close())} />
      ) : null}
      {table ? <ReadingsSheet onChoose={(readingId) => open(readingId, true)} onClose={close} /> : null}
    </div>
  )
}

/** Recordings that were made but never filed: the page was closed or the disk was full. */
function NotFiled() {
  const { id } = useRoom()
  const { kindOf } = useKinds()
  const client = useQueryClient()
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
      await client.invalidateQueries({ queryKey: ['room', id] })
    },
  })
  const next = waiting[0]
  useBack(file.error instanceof TypeError && !file.isPending && next !== undefined, () => next && file.mutate(next))
  if (waiting.length === 0) return null
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

function Row({ reading, chosen, onChoose }: { reading: ReadingSummary; chosen: boolean; onChoose: () => void }) {
  const { id } = useRoom()
  const { kindOf } = useKinds()
  const client = useQueryClient()
  const bin = useMutation({
    mutationFn: async () =>
      unwrap<ReadingSummary>(
        await api.DELETE('/api/readings/{reading_id}', { params: { path: { reading_id: reading.id } } }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['room', id] }),
  })
  const when = new Date(reading.taken_at)
  const name = kindOf(reading.kind).name
  return (
    <li className={`flex items-center gap-1 rounded-lg ${chosen ? 'bg-floor' : ''}`}>
      <button onClick={onChoose} aria-pressed={chosen} className="min-w-0 flex-1 rounded-lg px-2 py-1.5 text-left">
        <span className="font-semibold">{reading.settings.average_of ? 'Average' : name}</span>{' '}
        <span className="text-[0.86rem] text-ink-2">
          {WAY_WORDS[reading.way]} · {reading.verdict.word}
          {reading.counts ? '' : ' · set aside'}
          <br />
          {reading.headline.said || reading.file_name} ·{' '}
          {when.toLocaleDateString(undefined, { day: 'numeric', month: 'short' })}{' '}
          {when.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })}
        </span>
      </button>
      <Button
        small
        look="quiet"
        disabled={bin.isPending}
        onClick={() => bin.mutate()}
        aria-label={`Put this ${name} into the bin`}
      >
        Bin
      </Button>
    </li>
  )
}
