import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { api, inWords, type Reading, unwrap } from '../api/client'
import { uploadReading } from '../api/queries'
import { useRecorder } from '../record/use-recorder'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Check, NumberField } from '../ui/fields'
import { Caution, Notice } from '../ui/notice'
import { Segmented } from '../ui/segmented'

export type Kind = 'sweep' | 'clap' | 'glide' | 'tone' | 'take' | 'ir'
type Way = 'browser' | 'import' | 'rig'

const KINDS: readonly { key: Kind; name: string }[] = [
  { key: 'sweep', name: 'Sweep' },
  { key: 'clap', name: 'Clap' },
  { key: 'glide', name: 'Hum glide' },
  { key: 'tone', name: 'Silence' },
  { key: 'take', name: 'Test take' },
  { key: 'ir', name: 'Impulse' },
]
const WAYS: readonly { key: Way; name: string }[] = [
  { key: 'browser', name: 'Record here' },
  { key: 'import', name: 'Bring a file' },
  { key: 'rig', name: 'Practice rig' },
]
/** Long enough for the sound, its decay and a late start. */
const SECONDS: Record<Kind, number> = { sweep: 11, clap: 4, glide: 18, tone: 10, take: 15, ir: 4 }

const STEPS_TO_DO: Record<Kind, readonly string[]> = {
  sweep: [
    'Put a loudspeaker where your mouth is on the drawing, facing as you would.',
    'Put the microphone on its mark. Step back and keep still.',
    'Play the sweep loud but comfortable, start to end.',
  ],
  tone: [
    'Microphone on its mark, gain as for a take.',
    'Leave everything as it is when you record, and keep still.',
    'Ten seconds of nothing.',
  ],
  take: [
    'Stand on your mark with the instrument, gain as you would set it.',
    'Play or sing your quietest and your loudest phrase.',
    'Leave a breath of silence between phrases.',
  ],
  clap: [
    'Stand on your mark, the microphone on its own.',
    'One sharp clap, two wooden blocks or a burst balloon: hold it away from faces and ears.',
    'Then two seconds of silence.',
  ],
  glide: [
    'Stand on your mark and hum softly, mouth closed.',
    'Glide from your lowest note up an octave or more in about eight seconds, and down again.',
    'Keep your loudness steady: what swells is the room.',
  ],
  ir: [
    'Bring an impulse response made elsewhere, one bang with its decay.',
    'WAV or FLAC, the direct sound first.',
    'It is read as it is: nothing is known of the loudspeaker behind it.',
  ],
}

export function TakeReading({
  kinds = KINDS.map((k) => k.key),
  onTaken,
}: {
  kinds?: readonly Kind[]
  onTaken: (reading: Reading) => void
}) {
  const [kind, setKind] = useState<Kind>(kinds[0]!)
  const [way, setWay] = useState<Way>('browser')
  const { id, trying } = useRoom()
  const client = useQueryClient()
  const taken = async (reading: Reading) => {
    client.setQueryData(['reading', reading.id], reading)
    await client.invalidateQueries({ queryKey: ['room', id] })
    onTaken(reading)
  }
  return (
    <section className="space-y-2.5" aria-label="Take a reading" data-testid="take-reading">
      <div className="space-y-1.5">
        {kinds.length > 1 ? (
          <Segmented small columns={3} label="What to read" value={kind} options={KINDS.filter((k) => kinds.includes(k.key))} onChange={setKind} />
        ) : null}
        <Segmented small label="How" value={way} options={WAYS} onChange={setWay} />
      </div>
      {trying ? <Notice tone="care" title="A move is being tried on the drawing." body="The reading will be filed under it. Put it back first if the room is as it was." /> : null}
      {way === 'rig' ? null : (
        <ol className="list-decimal space-y-0.5 pl-5 text-[0.9rem] text-ink-2">
          {STEPS_TO_DO[kind].map((text) => <li key={text}>{text}</li>)}
        </ol>
      )}
      {way === 'browser' ? <Recorder key={kind} kind={kind} onTaken={taken} /> : null}
      {way === 'import' ? <Import key={kind} kind={kind} onTaken={taken} /> : null}
      {way === 'rig' ? <Rig key={kind} kind={kind} onTaken={taken} /> : null}
    </section>
  ) // prettier-ignore
}

type WayProps = { kind: Kind; onTaken: (reading: Reading) => Promise<void> }

function SweepFile() {
  return (
    <a
      href="/api/sweep.wav"
      download="keen-quiet-sweep.wav"
      className="font-semibold text-ink underline decoration-line-strong underline-offset-2"
    >
      Download the sweep (WAV)
    </a>
  )
}

function Recorder({ kind, onTaken }: WayProps) {
  const { id, active, flush } = useRoom()
  const [playHere, setPlayHere] = useState(kind === 'sweep')
  const { state, start, reset } = useRecorder({
    seconds: SECONDS[kind], countdownS: 3, play: kind === 'sweep' && playHere ? '/api/sweep.wav' : null,
  }) // prettier-ignore
  const send = useMutation({
    mutationFn: async ({ wav, device }: { wav: Blob; device: string }) => {
      await flush()
      return uploadReading(id, wav, {
        kind, way: 'browser', arrangementId: active.id, fileName: `recorded-${kind}.wav`, settings: { device, gain_db: 0 },
      }) // prettier-ignore
    },
    onSuccess: onTaken,
  })
  const sent = useRef<Blob | null>(null)
  if (state.phase === 'done' && sent.current !== state.wav) {
    sent.current = state.wav
    queueMicrotask(() => send.mutate(state))
  }
  return (
    <div className="space-y-2">
      {kind === 'sweep' ? (
        <>
          <Check label="Play the sweep from this computer meanwhile" checked={playHere} onChange={setPlayHere} />
          <Caution text="Take headphones off, start with the volume low and turn it up until it is clear but comfortable. Never play it at someone’s ear." />
          {playHere ? null : <SweepFile />}
        </>
      ) : null}
      {state.phase === 'ready' || state.phase === 'asking' ? (
        <Button look="main" disabled={state.phase === 'asking'} onClick={() => void start()}>
          {state.phase === 'asking' ? 'Waiting for the microphone…' : 'Start in three seconds'}
        </Button>
      ) : null}
      {state.phase === 'counting' ? (
        <p className="font-display text-6xl font-bold text-change" aria-live="assertive">{state.secondsLeft}</p>
      ) : null}
      {state.phase === 'recording' ? (
        <div>
          <p className="font-display text-2xl font-bold" aria-live="polite">Listening… {Math.max(state.totalS - state.elapsedS, 0).toFixed(0)} s</p>
          <Level peakDbfs={state.peakDbfs} />
          {state.notRaw.length ? <Notice tone="care" title={`The browser still applies ${state.notRaw.join(' and ')}.`} body="Figures from this reading may be wrong; another browser or a file is safer." /> : null}
          <Button small onClick={reset}>Stop, keep nothing</Button>
        </div>
      ) : null}
      {state.phase === 'done' ? (
        <div className="space-y-2">
          {send.isPending ? <p role="status" className="font-semibold">Reading it…</p> : null}
          {state.notRaw.length ? <Notice tone="care" title={`The browser applied ${state.notRaw.join(' and ')}.`} body="Treat the figures with care." /> : null}
          {state.wasHidden ? <Notice tone="care" title="The tab was hidden while recording." body="Some browsers drop sound then; compare with another reading." /> : null}
          {send.isError ? (
            <>
              <Notice tone="stop" title={inWords(send.error).title} body={`${inWords(send.error).cure} The recording is still here.`} />
              <div className="flex gap-2">
                <Button small look="main" onClick={() => send.mutate(state)}>Send again</Button>
                <Button small onClick={() => saveBlob(state.wav)}>Save the recording</Button>
              </div>
            </>
          ) : (
            <Button small onClick={reset}>Record another</Button>
          )}
        </div>
      ) : null}
      {state.phase === 'failed' ? (
        <>
          <Notice tone="stop" title={state.reason} body={state.remedy} />
          <Button small onClick={reset}>Try again</Button>
        </>
      ) : null}
    </div>
  ) // prettier-ignore
}

function saveBlob(blob: Blob) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = 'keen-quiet-recording.wav'
  link.click()
}

/** Live level with the good stretch marked: -30 to -6 dBFS for a reading. */
function Level({ peakDbfs }: { peakDbfs: number }) {
  const share = Math.min(Math.max((peakDbfs + 60) / 60, 0), 1)
  const word = peakDbfs > -1 ? 'too hot' : peakDbfs > -36 ? 'good' : 'quiet'
  return (
    <div className="my-2">
      <div className="relative h-5 overflow-hidden rounded-full border border-line-strong bg-floor">
        <div className="absolute inset-y-0 bg-felt-soft" style={{ left: '40%', right: '5%' }} />
        <div className={`absolute inset-y-1 left-1 rounded-full ${word === 'too hot' ? 'bg-bounce' : 'bg-ink'}`} style={{ width: `${share * 98}%` }} />
      </div>
      <p className="text-[0.85rem] text-ink-2">Peak {peakDbfs.toFixed(0).replace('-', '−')} dBFS: {word}</p>
    </div>
  ) // prettier-ignore
}

function Import({ kind, onTaken }: WayProps) {
  const { id, active, flush } = useRoom()
  const [over, setOver] = useState(false)
  const picker = useRef<HTMLInputElement>(null)
  const send = useMutation({
    mutationFn: async (file: File) => {
      await flush()
      return uploadReading(id, file, {
        kind, way: 'import', arrangementId: active.id, fileName: file.name, settings: { device: 'imported file', gain_db: 0 },
      }) // prettier-ignore
    },
    onSuccess: onTaken,
  })
  return (
    <div className="space-y-2">
      {kind === 'sweep' ? <p className="text-[0.92rem]"><SweepFile />, play it in the room, bring back the recording.</p> : null}
      <button
        type="button"
        onClick={() => picker.current?.click()}
        onDragOver={(e) => { e.preventDefault(); setOver(true) }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => { e.preventDefault(); setOver(false); const file = e.dataTransfer.files[0]; if (file) send.mutate(file) }}
        className={`w-full rounded-xl border-2 border-dashed px-3 py-5 text-[0.93rem] ${over ? 'border-felt bg-felt-soft' : 'border-line-strong bg-card'}`}
      >
        {send.isPending ? 'Reading it…' : <>Drop a recording here, or <span className="font-semibold underline">choose one</span><br /><span className="text-ink-2">WAV, FLAC, AIFF or OGG, up to 10 minutes</span></>}
      </button>
      <input ref={picker} type="file" accept="audio/*,.wav,.flac,.aif,.aiff,.ogg" className="sr-only" tabIndex={-1} aria-label={`Recording of the ${kind}`} onChange={(e) => { const file = e.target.files?.[0]; if (file) send.mutate(file); e.target.value = '' }} />
      {send.isError ? <Notice tone="stop" title={inWords(send.error).title} body={inWords(send.error).cure} /> : null}
    </div>
  ) // prettier-ignore
}

function Rig({ kind, onTaken }: WayProps) {
  const { id, active, flush } = useRoom()
  const [gain, setGain] = useState(0)
  const send = useMutation({
    mutationFn: async () => {
      await flush()
      return unwrap<Reading>(
        await api.POST('/api/rooms/{room_id}/readings/rig', {
          params: { path: { room_id: id } }, body: { kind, arrangement_id: active.id, gain_db: gain },
        }),
      ) // prettier-ignore
    },
    onSuccess: onTaken,
  })
  return (
    <div className="space-y-2">
      <p className="text-[0.9rem] text-ink-2">
        The rig simulates this room, its noises and an ordinary recorder. Its walls differ a little from the catalogue, as real ones do. Readings are labelled <em>simulated</em>.
      </p>
      <NumberField label="Recorder gain, against the usual" unit="dB" value={gain} low={-30} high={40} onChange={setGain} />
      <Button look="main" disabled={send.isPending} onClick={() => send.mutate()}>
        {send.isPending ? 'The rig is recording…' : 'Let the rig record'}
      </Button>
      {send.isError ? <Notice tone="stop" title={inWords(send.error).title} body={inWords(send.error).cure} /> : null}
    </div>
  ) // prettier-ignore
}
