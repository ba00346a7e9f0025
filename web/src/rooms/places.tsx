import { useQuery } from '@tanstack/react-query'
import { roomsChanged } from '../api/cache'
import { useState } from 'react'
import { Link, useParams } from 'react-router-dom'
import { $api, type MarkKey, type Schemas } from '../api/client'
import { ofRoom, roomQueries } from '../api/queries'
import { nothingYet, sourceWords } from '../marks/marks-column'
import { DIGITS, figure, ORDER } from '../marks/scales'
import { BeadString } from '../marks/string'
import { Button } from '../ui/button'
import { Failed, Notice } from '../ui/notice'
import { AddPlace } from './add-place'
import { CheckPlace } from './check-place'
import { RoomSketch } from './room-sketch'

type Place = Schemas['PlaceAnswer']

/** Several places side by side on the four marks: which one to use, why, and what would change it. */
export function Places() {
  const project = useParams().project ?? ''
  const places = $api.useQuery('get', '/api/places', { params: { query: project === null ? {} : { project } } })
  const rooms = useQuery(roomQueries.list())
  const [adding, setAdding] = useState(false)
  const [checking, setChecking] = useState<Place | null>(null)
  const sketches = Object.fromEntries((rooms.data ?? []).map((r) => [r.id, r]))
  return (
    <main className="mx-auto max-w-6xl px-6 py-8 max-sm:px-4">
      <p className="text-note">
        <Link to="/" className="font-semibold underline decoration-line-strong underline-offset-2">
          All rooms
        </Link>
        {project ? <span className="text-ink-2"> · {project}</span> : null}
      </p>
      <h1 className="mt-1 font-display text-3xl font-bold">Which place?</h1>
      {places.isPending ? (
        <p role="status" className="mt-3 text-ink-2">
          Weighing the places; a sloping ceiling takes some seconds.
        </p>
      ) : null}
      <Failed error={places.error} />
      {places.data ? (
        <>
          <p className="mt-2 max-w-3xl font-display text-title leading-snug" data-testid="recommendation">
            {places.data.recommendation}
          </p>
          <p className="mt-1 text-note text-ink-2">
            {places.data.purpose ? `Judged for: ${places.data.purpose.toLowerCase()}. ` : ''}A ring is predicted from
            what you typed, a filled bead was measured there. Better is always to the right.
          </p>
          {places.data.left_out.map((room) => (
            <Notice key={room.key} tone="care" title={`${room.name} is left out.`} body={room.why}>
              <Link to={`/rooms/${room.key}/tape`} className="font-semibold underline">
                Open it
              </Link>
            </Notice>
          ))}
          <ol className="mt-5 space-y-4">
            {places.data.places.map((place, i) => (
              <PlaceCard
                key={place.key}
                place={place}
                rank={i + 1}
                room={sketches[place.key]}
                onCheck={() => setChecking(place)}
              />
            ))}
          </ol>
        </>
      ) : null}
      <div className="mt-5 flex flex-wrap gap-2.5">
        <Button look="main" onClick={() => setAdding(true)}>
          Add a place
        </Button>
      </div>
      <AddPlace open={adding} project={project} onClose={() => setAdding(false)} />
      {checking ? <CheckPlace roomId={checking.key} name={checking.name} onClose={() => setChecking(null)} /> : null}
    </main>
  )
}

type CardProps = { place: Place; rank: number; room: Schemas['RoomSummary'] | undefined; onCheck: () => void }

function PlaceCard({ place, rank, room, onCheck }: CardProps) {
  const corner = $api.useMutation('post', '/api/rooms/{room_id}/corner', { onSuccess: roomsChanged })
  const basis = place.measured.length
    ? `${place.measured.length} of 4 marks measured${place.simulated ? ' (simulated)' : ''}`
    : place.guessed
      ? 'a guess, nothing measured yet'
      : 'predicted from its tape'
  return (
    <li
      className={`rounded-2xl border bg-card p-4 shadow-card ${rank === 1 ? 'border-felt' : 'border-line'}`}
      data-testid="place"
    >
      <div className="grid grid-cols-[170px_minmax(0,1fr)_minmax(0,1.15fr)] gap-5 max-lg:grid-cols-[110px_minmax(0,1fr)] max-sm:grid-cols-1">
        <div>{room?.sketch ? <RoomSketch sketch={room.sketch} w={170} h={124} /> : null}</div>
        <div className="min-w-0">
          <h2 className="text-title">
            <span className={`mr-2 ${rank === 1 ? 'text-felt' : 'text-ink-2'}`}>{rank}</span>
            <Link to={`/rooms/${place.key}/tape`} className="hover:underline">
              {place.name}
            </Link>
          </h2>
          <p className="text-small text-ink-2">
            {place.volume_m3.toFixed(1)} m³ · first swell {place.first_mode_hz.toFixed(0)} Hz · {basis}
          </p>
          <ul className="mt-1.5 list-disc space-y-0.5 pl-4 text-note marker:text-line-strong">
            {place.reasons.map((reason) => (
              <li key={reason}>{reason}</li>
            ))}
          </ul>
          {place.would_change ? (
            <p className="mt-1.5 text-note font-semibold text-change">{place.would_change}</p>
          ) : null}
          {place.changed.length ? (
            <p className="mt-1 text-small text-ink-2">
              Measured before {place.changed.join(', ')}: what it settled then is shown pale.
            </p>
          ) : null}
          <div className="mt-2.5 flex flex-wrap gap-2">
            <Button small look={place.measured.length < 3 ? 'warm' : 'plain'} onClick={onCheck}>
              Three-minute check
            </Button>
            <Button small look="quiet" disabled={corner.isPending} onClick={() => corner.mutate(ofRoom(place.key))}>
              Try its other corner
            </Button>
          </div>
          <Failed error={corner.error} />
        </div>
        <div className="grid grid-cols-2 gap-x-5 gap-y-1 self-start max-lg:col-span-2 max-sm:col-span-1">
          {ORDER.map((mark) => (
            <PlaceMark key={mark} mark={mark} place={place} />
          ))}
        </div>
      </div>
    </li>
  )
}

function PlaceMark({ mark, place }: { mark: MarkKey; place: Place }) {
  const now = place.marks[mark]
  return (
    <div>
      <p className="flex items-baseline justify-between gap-2">
        <span className="font-display font-semibold">{now.name}</span>
        <span className="text-right text-fine whitespace-nowrap text-ink-2">
          {now.value === null ? (
            nothingYet(mark, 'no line spoken yet')
          ) : (
            <>
              <strong className="font-display text-head text-ink">{figure(mark, now.value)}</strong> ±
              {(now.plus_minus ?? 0).toFixed(DIGITS[mark] || 0)} {now.unit}
            </>
          )}
        </span>
      </p>
      <BeadString mark={mark} width={210} measured={now.measured} predicted={now.predicted} wanted={now.wanted} />
      <p className="text-fine leading-tight text-ink-2">{now.meaning}</p>
      <p className="text-fine leading-tight text-ink-2">{sourceWords(mark, now)}</p>
    </div>
  )
}
