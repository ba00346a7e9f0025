import { useMutation, useQuery } from '@tanstack/react-query'
import { cache, roomsChanged } from '../api/cache'
import { useRef, useState } from 'react'
import { Link, useNavigate } from 'react-router-dom'
import { $api, api, inWords, Refused, type Schemas, unwrap } from '../api/client'
import { ofRoom, roomQueries, roomsAfter, tryDemo, uploadBundle } from '../api/queries'
import { useMore } from '../state/use-more'
import { currencyNow } from '../state/currency'
import { lengthText, useUnits } from '../state/units'
import { Bin } from '../ui/bin'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'
import { TextField } from '../ui/fields'
import { Failed, Notice } from '../ui/notice'
import { ThreeLengths, useUnsure } from './three-lengths'
import { capital } from '../ui/words'
import { Measures } from './measures'
import { Backups } from './backups'
import { RoomSketch } from './room-sketch'

export function RoomList() {
  const rooms = useQuery(roomQueries.list())
  const { all, button: more } = useMore(rooms.data ?? [], (some) => roomsAfter(some.length), 'More rooms')
  const binned = $api.useQuery('get', '/api/rooms', { params: { query: { binned: true } } })
  const takeOut = $api.useMutation('post', '/api/rooms/{room_id}/restore', { onSuccess: roomsChanged })
  const [making, setMaking] = useState(false)
  const picker = useRef<HTMLInputElement>(null)
  const navigate = useNavigate()
  const bring = useMutation({
    mutationFn: uploadBundle,
    onSuccess: async ({ id }) => {
      await roomsChanged()
      void navigate(`/rooms/${id}/marks`)
    },
  })
  const demo = useMutation({
    mutationFn: tryDemo,
    onSuccess: async (id) => {
      await roomsChanged()
      await cache.invalidateQueries(roomQueries.preparing())
      void navigate(`/rooms/${id}/marks`)
    },
  })
  const trouble = bring.error ?? demo.error
  return (
    <main className="mx-auto max-w-4xl px-6 py-10">
      <h1 className="font-display text-4xl font-bold">Keen Quiet</h1>
      <p className="mt-1 text-head text-ink-2">
        What your room does to a recording, what to do next, and whether it worked.
      </p>
      <div className="mt-6 flex flex-wrap gap-2.5">
        <Button look="main" onClick={() => setMaking(true)}>
          Tape out a room
        </Button>
        <Button onClick={() => demo.mutate()} disabled={demo.isPending}>
          {demo.isPending ? 'Taping it out' : 'Try the demo room'}
        </Button>
        <Button onClick={() => picker.current?.click()} disabled={bring.isPending}>
          {bring.isPending ? 'Bringing it in' : 'Bring in a bundle'}
        </Button>
        <input
          ref={picker}
          type="file"
          accept=".zip"
          className="sr-only"
          tabIndex={-1}
          aria-label="Bundle"
          onChange={(e) => {
            const file = e.target.files?.[0]
            if (file) bring.mutate(file)
            e.target.value = ''
          }}
        />
      </div>
      <Failed error={trouble} />
      <div className="mt-4">
        <Measures />
      </div>
      <h2 className="mt-9 mb-3 text-xl">Rooms</h2>
      {rooms.isPending ? <p role="status">Looking</p> : null}
      <Failed error={rooms.error} />
      {rooms.data?.length === 0 ? (
        <p className="text-ink-2">
          None yet. Take a tape measure to the room you record in: length, width, height. Three numbers are enough to
          start.
        </p>
      ) : null}
      {byProject(all).map(([project, some]) => (
        <section key={project} className="mb-6">
          <div className="mb-2 flex flex-wrap items-baseline gap-x-4">
            {project ? <h3 className="text-head font-semibold text-ink-2">{project}</h3> : null}
            {some.length > 1 || project ? (
              <Link
                to={project ? `/places/${encodeURIComponent(project)}` : '/places'}
                className="font-semibold text-felt underline decoration-line-strong underline-offset-4"
              >
                Which place?
              </Link>
            ) : null}
          </div>
          <ul className="grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
            {some.map((room) => (
              <RoomCard key={room.id} room={room} />
            ))}
          </ul>
        </section>
      ))}
      {more}
      <Bin things={binned.data ?? []} onTakeOut={(id) => takeOut.mutate(ofRoom(id))} />
      <Backups hasRooms={(rooms.data?.length ?? 0) + (binned.data?.length ?? 0) > 0} />
      <ol className="mt-12 grid gap-6 border-t border-line pt-6 sm:grid-cols-3">
        {HOW.map(([word, text], i) => (
          <li key={word}>
            <h2 className="text-head">
              <span className="mr-2 text-change">{i + 1}</span>
              {word}
            </h2>
            <p className="text-note text-ink-2">{text}</p>
          </li>
        ))}
      </ol>
      <NewRoom open={making} onClose={() => setMaking(false)} />
    </main>
  )
}

/** Rooms under their projects, those without one last. */
function byProject(rooms: readonly Schemas['RoomSummary'][]): [string, Schemas['RoomSummary'][]][] {
  const groups = new Map<string, Schemas['RoomSummary'][]>()
  for (const room of rooms) groups.set(room.project ?? '', [...(groups.get(room.project ?? '') ?? []), room])
  return [...groups].sort(([a], [b]) => Number(a === '') - Number(b === ''))
}

function RoomCard({ room }: { room: Schemas['RoomSummary'] }) {
  const units = useUnits()
  const bin = $api.useMutation('delete', '/api/rooms/{room_id}', { onSuccess: roomsChanged })
  return (
    <li className="rounded-2xl border border-line bg-card p-4 shadow-card">
      {room.broken || !room.sketch ? (
        <Broken room={room} />
      ) : (
        <Link to={`/rooms/${room.id}/marks`} className="block rounded-lg">
          <div className="mb-3">
            <RoomSketch sketch={room.sketch} w={280} h={190} />
          </div>
          <h3 className="text-title">{room.name}</h3>
        </Link>
      )}
      <div className="flex items-center justify-between">
        <p className="text-small text-ink-2">
          {room.broken ? '' : room.size_m?.map((side) => lengthText(side, units)).join(' × ')}
        </p>
        <Button
          small
          look="quiet"
          disabled={bin.isPending}
          onClick={() => bin.mutate(ofRoom(room.id))}
          aria-label={`Put ${room.name} into the bin`}
        >
          Bin
        </Button>
      </div>
    </li>
  )
}

/** A room whose document cannot be read any more: it can be saved as it is, and binned. */
function Broken({ room }: { room: Schemas['RoomSummary'] }) {
  return (
    <div className="mb-3 min-h-[190px]">
      <h3 className="text-title">{room.name}</h3>
      <Notice tone="stop" title="This room cannot be opened." body={room.broken ?? ''}>
        <a
          href={`/api/rooms/${room.id}/bundle`}
          download
          className="font-semibold underline decoration-line-strong underline-offset-2"
        >
          Save it as it is
        </a>
      </Notice>
    </div>
  )
}

const HOW: readonly [string, string][] = [
  ['Tape', 'Length, width, height, and what the walls are made of. Two minutes.'],
  ['Listen', 'A sweep or a clap, ten seconds of silence, a test take. Before anything is bought.'],
  ['Try', 'Next moves for your room, free ones first. See what each would do, then prove it.'],
]

function NewRoom({ open, onClose }: { open: boolean; onClose: () => void }) {
  const units = useUnits()
  const navigate = useNavigate()
  const [fields, setFields] = useState({ name: '', length: '', width: '', height: '' })
  const make = useMutation({
    mutationFn: async () =>
      unwrap(
        await api.POST('/api/rooms', {
          body: {
            name: fields.name,
            length: fields.length,
            width: fields.width,
            height: fields.height,
            softness: '',
            guessed: false,
            project: '',
            units,
            currency: currencyNow(),
          },
        }),
      ),
    onSuccess: async ({ id }) => {
      await roomsChanged()
      void navigate(`/rooms/${id}/tape`)
    },
  })
  const refused = make.error instanceof Refused ? make.error : null
  const setLengths = (part: Partial<typeof fields>) => setFields((now) => ({ ...now, ...part }))
  const unsure = useUnsure(fields)
  return (
    <Sheet open={open} onClose={onClose} title="Tape out a room">
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault()
          make.mutate()
        }}
      >
        <TextField label="What do you call it?" value={fields.name} onChange={(name) => setLengths({ name })} />
        <Measures />
        <ThreeLengths lengths={fields} onChange={setLengths} />
        {make.isError ? (
          <Notice
            tone="stop"
            title={`${refused ? `${capital(refused.field)}: ` : ''}${inWords(make.error).title}`}
            body={inWords(make.error).cure}
          />
        ) : null}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button look="main" type="submit" disabled={make.isPending || unsure}>
            Draw it
          </Button>
        </div>
      </form>
    </Sheet>
  )
}
