import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { $api } from '../../api/client'
import { ofBoth, ofReading } from '../../api/queries'
import { LevelBar } from '../../listen/level-bar'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { NumberField } from '../../ui/fields'
import { Failed, Notice } from '../../ui/notice'
import { partOf, PlayPart } from '../../ui/play-part'
import { Select } from '../../ui/select'
import { useSilences } from './silence-list'
import { useSilence } from './use-silence'

const TONE_S = 26
const LEAST_S = 20

/** Room tone in one click, whether a cut would be heard, and what two gains tell. */
export function RoomToneBench() {
  const silences = useSilences()
  return (
    <div className="grid gap-x-6 gap-y-4 pb-3 lg:grid-cols-3" data-testid="tone-tools">
      <RoomTone long={silences.filter((s) => s.seconds >= LEAST_S)} />
      <Splice silences={silences} />
      <Gains silences={silences} />
    </div>
  )
}

type Silences = ReturnType<typeof useSilences>

function RoomTone({ long }: { long: Silences }) {
  const { active } = useRoom()
  const { take, mic } = useSilence()
  const [chosen, setChosen] = useState<string | null>(null)
  const record = useMutation({
    mutationFn: (way: 'browser' | 'rig') =>
      take({ way, seconds: TONE_S, countdownS: 3, silenced: [], note: `Room tone, ${active.name || 'as it is'}` }),
    onSuccess: (reading) => setChosen(reading.id),
  })
  const shown = chosen ?? long[0]?.key ?? null
  const busy = record.isPending
  return (
    <section aria-label="Room tone">
      <h3 className="text-head leading-tight">Room tone to cut with</h3>
      <p className="text-note text-ink-2">
        Twenty-six seconds of nothing at the take’s gain, with everything where it is; the evenest ten are marked.
      </p>
      {busy && mic.state.phase !== 'closed' ? (
        <div className="my-2 space-y-2">
          <p className="font-display text-large font-bold" aria-live="assertive">
            {mic.state.phase === 'counting'
              ? mic.state.secondsLeft
              : mic.state.phase === 'recording'
                ? `Silence, ${Math.max(mic.state.totalS - mic.state.elapsedS, 0).toFixed(0)} s`
                : 'Reading it'}
          </p>
          <LevelBar dbfs={mic.level} good={[-80, -24]} />
        </div>
      ) : (
        <div className="my-2 flex flex-wrap gap-2">
          <Button look="main" small disabled={busy} onClick={() => record.mutate('browser')}>
            {busy ? 'Recording' : 'Record room tone'}
          </Button>
          <Button small disabled={busy} onClick={() => record.mutate('rig')}>
            Practice rig
          </Button>
        </div>
      )}
      <Failed error={record.error} />
      {long.length > 1 ? <Select label="Which" value={shown!} options={long} onChange={setChosen} /> : null}
      {shown ? <Best id={shown} /> : null}
    </section>
  )
}

function Best({ id }: { id: string }) {
  const { data, error } = $api.useQuery('get', '/api/readings/{reading_id}/room-tone', ofReading(id))
  if (error) return <Failed error={error} />
  if (!data) return null
  const whole = Math.max(data.end_s + 2, TONE_S)
  return (
    <div className="mt-2">
      <svg viewBox="0 0 100 8" className="h-4 w-full" preserveAspectRatio="none" role="img" aria-label={data.words}>
        <rect x="0" y="2" width="100" height="4" rx="1" fill="var(--floor)" />
        <rect
          x={(100 * data.start_s) / whole}
          y="1"
          width={(100 * (data.end_s - data.start_s)) / whole}
          height="6"
          rx="1"
          fill="var(--felt)"
        />
      </svg>
      <p className="text-note">{data.words}</p>
      <div className="flex flex-wrap items-center gap-2">
        <PlayPart
          address={partOf(id, data.start_s, data.end_s)}
          label="the best ten seconds, raised"
          name="Hear it, raised"
          volume={0.7}
        />
        <a
          href={`${partOf(id, data.start_s, data.end_s)}&level=false`}
          download="room-tone.wav"
          className="text-small font-semibold underline decoration-line-strong underline-offset-2"
        >
          Save as WAV
        </a>
      </div>
    </div>
  )
}

function Splice({ silences }: { silences: Silences }) {
  const [first, setFirst] = useState<string | null>(null)
  const [second, setSecond] = useState<string | null>(null)
  const [one, other] = [first ?? silences[1]?.key ?? null, second ?? silences[0]?.key ?? null]
  return (
    <section aria-label="A cut between two">
      <h3 className="text-head leading-tight">Would a cut be heard?</h3>
      <p className="text-note text-ink-2">
        Two silences from two takes: heard from 2 dB in all, 3 dB in a third octave, or by a new tone.
      </p>
      {silences.length < 2 ? (
        <p className="mt-2 text-note text-ink-2">Needs two silences of this room.</p>
      ) : (
        <>
          <div className="mt-2 grid grid-cols-2 gap-2">
            <Select label="From" value={one!} options={silences} onChange={setFirst} />
            <Select label="To" value={other!} options={silences} onChange={setSecond} />
          </div>
          {one && other && one !== other ? <Cut first={one} second={other} /> : null}
        </>
      )}
    </section>
  )
}

function Cut({ first, second }: { first: string; second: string }) {
  const { data, error } = $api.useQuery('get', '/api/readings/{reading_id}/splice/{other_id}', ofBoth(first, second))
  if (error) return <Failed error={error} />
  if (!data) return null
  return <Notice tone={data.heard ? 'care' : 'good'} title={data.heard ? 'Heard' : 'Not heard'} body={data.words} />
}

function Gains({ silences }: { silences: Silences }) {
  const [low, setLow] = useState<string | null>(null)
  const [high, setHigh] = useState<string | null>(null)
  const [gain, setGain] = useState(10)
  const ask = $api.useMutation('get', '/api/readings/{reading_id}/gains/{other_id}')
  return (
    <section aria-label="Two gains">
      <h3 className="text-head leading-tight">Room or recorder?</h3>
      <p className="text-note text-ink-2">
        Two silences, the second with 10 dB more gain: what is amplified along is the room’s, the rest the recorder’s.
      </p>
      {silences.length < 2 ? (
        <p className="mt-2 text-note text-ink-2">Needs two silences of this room.</p>
      ) : (
        <div className="mt-2 space-y-2">
          <div className="grid grid-cols-2 gap-2">
            <Select label="Lower gain" value={low ?? ''} options={silences} onChange={setLow} />
            <Select label="Higher gain" value={high ?? ''} options={silences} onChange={setHigh} />
          </div>
          <div className="flex items-end gap-2">
            <NumberField label="Gain between them" unit="dB" value={gain} low={6} high={40} onChange={setGain} />
            <Button
              small
              disabled={!low || !high || low === high || ask.isPending}
              onClick={() => ask.mutate({ params: { ...ofBoth(low!, high!).params, query: { gain_db: gain } } })}
            >
              Tell them apart
            </Button>
          </div>
          <Failed error={ask.error} />
          {ask.data ? (
            <Notice
              tone={ask.data.advice === 'up' ? 'care' : 'good'}
              title={ask.data.advice === 'up' ? 'The recorder is heard' : 'It is the room'}
              body={ask.data.words}
            />
          ) : null}
        </div>
      )}
    </section>
  )
}
