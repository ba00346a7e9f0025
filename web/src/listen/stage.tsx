import { useMutation } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import { $api, inWords, type KindInfo, type Reading } from '../api/client'
import { uploadReading } from '../api/queries'
import { keep, letGo } from '../record/kept'
import { type Taken, useMicrophone } from '../record/use-microphone'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Check, TextField } from '../ui/fields'
import { Caution, Notice } from '../ui/notice'
import { Segmented } from '../ui/segmented'
import { Select } from '../ui/select'
import { useBack } from '../ui/use-back'
import { LevelBar } from './level-bar'
import { Rolling } from './rolling'
import { SafeLevel } from './safe-level'
import { useSong } from './use-song'

const COUNTDOWNS = [
  { key: '3', name: '3 s' },
  { key: '10', name: '10 s' },
] as const
const remembered = (key: string) => localStorage.getItem(`kq-${key}`) ?? ''

type Props = {
  kind: KindInfo
  /** A repeat: the microphone was allowed before, so it opens by itself. */
  again: boolean
  onTaken: (reading: Reading) => Promise<void>
  onBusy: (busy: boolean) => void
}

/** Recording at the measuring place: the microphone opened and its level shown, then hands-free. */
export function Stage({ kind: info, again, onTaken, onBusy }: Props) {
  const kind = info.key
  // what is sent by a loudspeaker can be played from here
  const sends = info.by_loudspeaker
  const own = info.starts_itself
  const { id, active, flush } = useRoom()
  const mic = useMicrophone()
  const { state, chain } = mic
  const [channel, setChannel] = useState('all')
  const [gain, setGain] = useState(() => active.chain.dial || remembered('gain'))
  const [count, setCount] = useState<'3' | '10'>('3')
  const [playHere, setPlayHere] = useState(sends)
  const [playDb, setPlayDb] = useState<number | null>(() => {
    const known = sessionStorage.getItem('kq-play-db')
    return known === null ? null : Number(known)
  })
  const [ramping, setRamping] = useState(false)
  const [isOnPageOnly, setIsOnPageOnly] = useState(false)
  const kept = useRef<{ taken: Taken; id: string } | null>(null)
  const send = useMutation({
    mutationFn: async (taken: Taken) => {
      const settings = {
        device: taken.chain.device,
        gain,
        channel: taken.channel,
        rate_hz: taken.chain.rateHz,
        not_raw: taken.chain.notRaw,
        was_hidden: taken.wasHidden,
        unplugged: taken.unplugged,
        ...(sends && playHere ? { play_db: playDb ?? 0 } : {}),
      }
      if (kept.current?.taken !== taken) {
        kept.current = { taken, id: crypto.randomUUID() }
        const isKept = await keep({
          id: kept.current.id,
          roomId: id,
          kind,
          arrangementId: active.id,
          takenAt: new Date().toISOString(),
          settings,
          wav: taken.wav,
        })
        setIsOnPageOnly(!isKept)
      }
      await flush()
      const reading = await uploadReading(id, taken.wav, {
        kind,
        way: 'browser',
        arrangementId: active.id,
        fileName: `recorded-${kind}.wav`,
        settings,
        key: kept.current.id,
      })
      await letGo(kept.current.id)
      return reading
    },
    onSuccess: onTaken,
  })
  const { mutate } = send
  const unsent = state.phase === 'done' && send.error instanceof TypeError && !send.isPending ? state.taken : null
  useBack(unsent !== null, () => unsent && mutate(unsent))
  const { open } = mic
  useEffect(() => {
    if (again) void open()
  }, [again, open])
  const taken = state.phase === 'done' ? state.taken : null
  useEffect(() => {
    if (taken) mutate(taken)
  }, [mutate, taken])
  const song = useSong(mic, { gain, channel, canStart: info.by_hand && state.phase === 'open', onTaken })
  const busy =
    ['asking', 'armed', 'counting', 'recording', 'rolling'].includes(state.phase) ||
    send.isPending ||
    song.end.isPending ||
    ramping
  useEffect(() => onBusy(busy), [busy, onBusy])
  const playing = sends && playHere
  const start = (byClap: boolean) =>
    void mic.start(
      {
        seconds: info.seconds,
        countdownS: Number(count),
        byClap,
        clapIsSound: own,
        play: playing ? '/api/sweep.wav' : null,
        playDb: playDb ?? 0,
      },
      channel,
    )
  const found = (db: number) => {
    setPlayDb(db)
    sessionStorage.setItem('kq-play-db', String(db))
    setRamping(false)
  }

  if (ramping)
    return <SafeLevel context={mic.context} dbfs={mic.level} onChosen={found} onCancel={() => setRamping(false)} />
  if (song.end.isPending)
    return <ReadingIt name={song.name()} says="A few seconds; an hour of song takes some minutes." />
  switch (state.phase) {
    case 'rolling':
      return (
        <>
          <Rolling
            info={info}
            elapsedS={state.elapsedS}
            levelDbfs={mic.level}
            told={song.told}
            onStop={() => song.end.mutate()}
            onDrop={song.drop}
          />
          <DeadInput levelDbfs={mic.level} elapsedS={state.elapsedS} isQuiet={false} />
        </>
      )
    case 'armed':
      return (
        <Big
          word={own ? 'Clap now' : 'Clap to start'}
          says={own ? 'It records the clap itself.' : 'Two seconds after it the recording begins.'}
        >
          <LevelBar dbfs={mic.level} good={info.good_dbfs} big />
          <Button onClick={mic.cancel}>Stop, keep nothing</Button>
        </Big>
      )
    case 'counting':
      return (
        <Big word={String(state.secondsLeft)} says={`Then: ${info.cue.toLowerCase()}`} huge>
          <LevelBar dbfs={mic.level} good={info.good_dbfs} big />
          <Button onClick={mic.cancel}>Stop, keep nothing</Button>
        </Big>
      )
    case 'recording':
      return (
        <Big word={info.cue} says={`Listening: ${Math.max(state.totalS - state.elapsedS, 0).toFixed(0)} s left`}>
          <div
            role="progressbar"
            aria-label="How much is recorded"
            aria-valuemin={0}
            aria-valuemax={state.totalS}
            aria-valuenow={Math.round(state.elapsedS)}
            className="h-3 overflow-hidden rounded-full bg-wall"
          >
            <div
              className="h-full bg-change"
              style={{ width: `${Math.min(state.elapsedS / state.totalS, 1) * 100}%` }}
            />
          </div>
          <LevelBar dbfs={mic.level} good={info.good_dbfs} big />
          <DeadInput levelDbfs={mic.level} elapsedS={state.elapsedS} isQuiet={info.form === 'tone'} />
          <Button onClick={mic.cancel}>Stop, keep nothing</Button>
        </Big>
      )
    case 'done':
      return (
        <div className="space-y-2">
          {send.isPending ? <ReadingIt name={kept.current?.id ?? null} says="A second or two." /> : null}
          {send.isError ? (
            <>
              <Notice
                tone="stop"
                title={inWords(send.error).title}
                body={
                  isOnPageOnly
                    ? `${inWords(send.error).cure} This browser could not keep the recording: leave this page open, or save it now.`
                    : `${inWords(send.error).cure} The recording is kept in this browser until it is filed.`
                }
              />
              <div className="flex flex-wrap gap-2">
                <Button look="main" onClick={() => mutate(state.taken)}>
                  Send again
                </Button>
                <Button onClick={() => saveBlob(state.taken.wav)}>Save the recording</Button>
                <Button look="quiet" onClick={mic.cancel}>
                  Record again
                </Button>
              </div>
            </>
          ) : null}
        </div>
      )
    case 'failed':
      return (
        <div className="space-y-2">
          <Notice tone="stop" title={state.reason} body={state.remedy} />
          <Button look="main" onClick={() => void mic.open()}>
            Try again
          </Button>
        </div>
      )
    case 'closed':
    case 'asking':
      return (
        <div className="space-y-3">
          {info.caution ? <Caution text={info.caution} /> : null}
          <Button look="main" disabled={state.phase === 'asking'} onClick={() => void mic.open()}>
            {state.phase === 'asking' ? 'Waiting for the microphone' : 'Open the microphone'}
          </Button>
          <p className="text-note text-ink-2">The sound stays on this computer.</p>
        </div>
      )
    case 'open':
      return (
        <div className="space-y-3">
          <LevelBar dbfs={mic.level} good={info.good_dbfs} big />
          <div className="grid grid-cols-2 gap-2">
            {mic.devices.length > 1 ? (
              <Select
                label="Microphone"
                value={chain?.deviceId ?? ''}
                options={mic.devices.map((d, i) => ({ key: d.deviceId, name: d.label || `Microphone ${i + 1}` }))}
                onChange={(key) => void mic.open(key)}
              />
            ) : null}
            {(chain?.channels ?? 1) > 1 ? (
              <Select
                label="Channel"
                value={channel}
                options={[
                  { key: 'all', name: 'Both' },
                  { key: '1', name: 'Left (1)' },
                  { key: '2', name: 'Right (2)' },
                ]}
                onChange={setChannel}
              />
            ) : null}
            <TextField
              label="How the gain is set"
              value={gain}
              hint="e.g. dial at 2; calibrations are kept by it"
              onChange={(text) => {
                setGain(text)
                localStorage.setItem('kq-gain', text)
              }}
            />
          </div>
          {chain ? <Raw chain={chain} /> : null}
          {sends ? (
            <div className="space-y-1">
              <Check label="Play the sweep from this computer meanwhile" checked={playHere} onChange={setPlayHere} />
              {playHere ? null : <SweepFile />}
            </div>
          ) : null}
          {info.caution ? <Caution text={info.caution} /> : null}
          {[song.begin.error, song.end.error].map((error, i) =>
            error ? (
              <Notice
                key={i}
                tone="stop"
                title={inWords(error).title}
                body={`${inWords(error).cure}${i ? ' What was sung is kept: file it under Listen or Take.' : ''}`}
              />
            ) : null,
          )}
          <div className="flex flex-wrap items-center gap-2">
            {playing && playDb === null ? (
              <>
                <Button look="main" onClick={() => setRamping(true)}>
                  Find a safe level first
                </Button>
                <Button onClick={() => found(0)}>I have set the volume</Button>
              </>
            ) : (
              <>
                {info.by_hand ? (
                  <Button look="main" disabled={song.begin.isPending} onClick={song.start}>
                    Record until I stop<span className="max-lg:hidden"> (space)</span>
                  </Button>
                ) : null}
                {own ? null : (
                  <Button look={info.by_hand ? 'plain' : 'main'} onClick={() => start(false)}>
                    {info.by_hand ? `Just ${info.seconds} s, in ${count} s` : `Start in ${count} seconds`}
                  </Button>
                )}
                <Button look={own ? 'main' : 'plain'} onClick={() => start(true)}>
                  {own ? 'Wait for my clap' : 'Start by clap'}
                </Button>
                {own ? <Button onClick={() => start(false)}>Start in {count} seconds</Button> : null}
                <Segmented small label="Countdown" value={count} options={COUNTDOWNS} onChange={setCount} />
                {playing ? (
                  <Button look="quiet" small onClick={() => setRamping(true)}>
                    Level again
                  </Button>
                ) : null}
              </>
            )}
          </div>
        </div>
      )
  }
}

const DEAD_AFTER_S = 2.5
/** Below the noise of any room through any microphone; a silence may be soft, but is not nothing. */
const DEAD_DBFS = { sounding: -75, quiet: -100 }

/** Nothing arrives though it is recorded: said while there is time to mend it. */
function DeadInput({ levelDbfs, elapsedS, isQuiet }: { levelDbfs: number; elapsedS: number; isQuiet: boolean }) {
  const loudest = useRef(-Infinity)
  loudest.current = Math.max(loudest.current, levelDbfs)
  if (elapsedS < DEAD_AFTER_S || loudest.current > (isQuiet ? DEAD_DBFS.quiet : DEAD_DBFS.sounding)) return null
  return (
    <Notice
      tone="stop"
      title="Nothing arrives."
      body="Is the microphone powered and not muted, its front to you, and is it the input that was chosen?"
    />
  )
}

/** Whether the browser leaves the sound alone, said plainly. */
function Raw({ chain }: { chain: { device: string; rateHz: number; channels: number; notRaw: string[] } }) {
  return chain.notRaw.length ? (
    <Notice
      tone="care"
      title={`The browser still applies ${chain.notRaw.join(' and ')}.`}
      body="Figures from this reading may be wrong; another browser or a file is safer."
    />
  ) : (
    <p className="text-small text-ink-2">
      <span aria-hidden className="font-bold text-felt">
        ✓{' '}
      </span>
      Raw sound: no echo cancellation, noise suppression or automatic gain · {(chain.rateHz / 1000).toFixed(1)} kHz ·{' '}
      {chain.channels === 1 ? 'one channel' : `${chain.channels} channels`}
      {chain.rateHz < 40_000 ? ' · a low rate: the top octave will be missing' : ''}
    </p>
  )
}

export const SweepFile = () => (
  <a
    href="/api/sweep.wav"
    download="keen-quiet-sweep.wav"
    className="font-semibold text-ink underline decoration-line-strong underline-offset-2"
  >
    Download the sweep (WAV)
  </a>
)

const TURN_MS = 2000

/** While a recording is read, or waits for others to be read. name : under which it was sent. */
function ReadingIt({ name, says }: { name: string | null; says: string }) {
  const { data } = $api.useQuery(
    'get',
    '/api/turns/{name}',
    { params: { path: { name: name ?? '' } } },
    { enabled: name !== null, refetchInterval: TURN_MS, gcTime: 0 },
  )
  const before = data?.before ?? 0
  return (
    <Big
      word={before ? 'It waits its turn' : 'Reading it'}
      says={before ? `${before === 1 ? 'One recording is' : `${before} recordings are`} read before it.` : says}
    />
  )
}

function Big({
  word,
  says,
  huge = false,
  children,
}: {
  word: string
  says: string
  huge?: boolean
  children?: React.ReactNode
}) {
  return (
    <div className="space-y-4">
      <div aria-live="assertive">
        <p
          className={`font-display leading-[0.95] font-bold text-change ${huge ? 'text-[clamp(7rem,24vw,15rem)]' : 'text-[clamp(3.2rem,9vw,6.4rem)]'}`}
          data-testid="cue"
        >
          {word}
        </p>
        <p className="mt-1 font-display text-large font-semibold">{says}</p>
      </div>
      {children}
    </div>
  )
}

export function saveBlob(blob: Blob) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = 'keen-quiet-recording.wav'
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 5000)
}
