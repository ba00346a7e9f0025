import { useCallback, useEffect, useRef, useState } from 'react'
import { ClapTrigger } from './clap-trigger'
import { joined, wavOf } from './wav'

/** How the sound comes in; what the browser still does to it although it was asked not to. */
export type Chain = { device: string; deviceId: string; rateHz: number; channels: number; notRaw: string[] }
export type Taken = {
  wav: Blob
  chain: Chain
  channel: string
  wasHidden: boolean
  unplugged: boolean
}

export type Microphone =
  | { phase: 'closed' }
  | { phase: 'asking' }
  | { phase: 'open' }
  | { phase: 'armed' }
  | { phase: 'counting'; secondsLeft: number }
  | { phase: 'recording'; elapsedS: number; totalS: number }
  | { phase: 'rolling'; elapsedS: number }
  | { phase: 'done'; taken: Taken }
  | { phase: 'failed'; reason: string; remedy: string }

export type Start = {
  seconds: number
  countdownS: number
  /** Wait for a clap first. With `clapIsSound` the clap itself is what is recorded. */
  byClap: boolean
  clapIsSound: boolean
  /** Played through this computer's loudspeaker meanwhile. */ play: string | null
  /** Gain of what is played. [dB] */ playDb: number
}

const RAW = { echoCancellation: false, noiseSuppression: false, autoGainControl: false } as const
const RAW_WORDS: Record<keyof typeof RAW, string> = {
  echoCancellation: 'echo cancellation',
  noiseSuppression: 'noise suppression',
  autoGainControl: 'automatic gain',
}
const BEFORE_CLAP_S = 0.7
const AFTER_CLAP_MS = 1600

function alterations(track: MediaStreamTrack): string[] {
  const settings = track.getSettings()
  return (Object.keys(RAW) as (keyof typeof RAW)[]).filter((key) => settings[key] === true).map((key) => RAW_WORDS[key])
}

function inWords(error: unknown): { reason: string; remedy: string } {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'NotAllowedError')
    return {
      reason: 'The browser was not allowed to use the microphone.',
      remedy: 'Allow it at the lock sign in the address bar, or bring a file instead.',
    }
  if (name === 'NotFoundError')
    return { reason: 'No microphone was found.', remedy: 'Plug one in, or bring a file recorded elsewhere.' }
  if (name === 'NotReadableError')
    return { reason: 'Another program holds the microphone.', remedy: 'Close the other program and try again.' }
  if (name === 'OverconstrainedError') return { reason: 'That microphone is gone.', remedy: 'Choose another one.' }
  return {
    reason: 'The microphone could not be opened.',
    remedy: 'Bring a file recorded elsewhere, or use the practice rig.',
  }
}

type Session = {
  context: AudioContext
  stream: MediaStream
  chain: Chain
  /** Called with every block of samples by channel. */
  onBlock: ((block: Float32Array[], peakDbfs: number) => void) | null
  undo: (() => void)[]
}

/** One microphone: opened raw, its level told all the time, recorded by countdown or by a clap. What is started is stopped. */
export function useMicrophone() {
  const [state, setState] = useState<Microphone>({ phase: 'closed' })
  const [level, setLevel] = useState(-120)
  const [chain, setChain] = useState<Chain | null>(null)
  const [devices, setDevices] = useState<MediaDeviceInfo[]>([])
  const session = useRef<Session | null>(null)
  const run = useRef(0)
  const stopRun = useRef<(() => void) | null>(null)
  const stopRunning = () => {
    stopRun.current?.()
    stopRun.current = null
  }

  const close = useCallback(() => {
    run.current += 1
    stopRunning()
    session.current?.undo.splice(0).forEach((act) => act())
    session.current = null
    setChain(null)
    setState({ phase: 'closed' })
  }, [])
  useEffect(() => close, [close])

  const open = useCallback(async (deviceId?: string): Promise<boolean> => {
    run.current += 1
    session.current?.undo.splice(0).forEach((act) => act())
    session.current = null
    setState({ phase: 'asking' })
    const undo: (() => void)[] = []
    const fail = (reason: string, remedy: string) => {
      undo.splice(0).forEach((act) => act())
      setState({ phase: 'failed', reason, remedy })
      return false
    }
    try {
      if (!navigator.mediaDevices?.getUserMedia)
        return fail('This browser gives no microphone to this page.', 'Open it at http://127.0.0.1, or bring a file.')
      const stream = await navigator.mediaDevices.getUserMedia({
        audio: { ...RAW, channelCount: { ideal: 2 }, ...(deviceId ? { deviceId: { exact: deviceId } } : {}) },
      })
      undo.push(() => stream.getTracks().forEach((track) => track.stop()))
      const track = stream.getAudioTracks()[0]!
      const context = new AudioContext()
      undo.push(() => void context.close())
      await context.audioWorklet.addModule('/recorder-worklet.js')
      const settings = track.getSettings()
      const opened: Chain = {
        device: track.label || 'microphone',
        deviceId: settings.deviceId ?? deviceId ?? '',
        rateHz: context.sampleRate,
        channels: settings.channelCount ?? 1,
        notRaw: alterations(track),
      }
      const made: Session = { context, stream, chain: opened, onBlock: null, undo }
      const node = new AudioWorkletNode(context, 'keen-quiet-recorder', { numberOfOutputs: 0 })
      const source = context.createMediaStreamSource(stream)
      let peak = 0
      let shownAt = 0
      node.port.onmessage = ({ data }: MessageEvent<Float32Array[]>) => {
        let now = 0
        for (const samples of data) for (const value of samples) now = Math.max(now, Math.abs(value))
        made.onBlock?.(data, 20 * Math.log10(Math.max(now, 1e-6)))
        peak = Math.max(peak * 0.985, now)
        if (context.currentTime - shownAt > 0.08) {
          shownAt = context.currentTime
          setLevel(20 * Math.log10(Math.max(peak, 1e-6)))
        }
      }
      undo.push(() => {
        node.port.onmessage = null
        source.disconnect()
      })
      source.connect(node)
      session.current = made
      setChain(opened)
      setState({ phase: 'open' })
      const known = await navigator.mediaDevices.enumerateDevices?.()
      setDevices((known ?? []).filter((d) => d.kind === 'audioinput'))
      return true
    } catch (error) {
      const { reason, remedy } = inWords(error)
      return fail(reason, remedy)
    }
  }, [])

  const start = useCallback(
    async (how: Start, channel: string) => {
      const before = run.current
      if (!session.current && !(await open())) return
      // opening counts as a new run; closing during it ends this one
      if (!session.current || run.current > before + 1) return
      const mine = (run.current += 1)
      const gone = () => run.current !== mine
      const { context, chain: opened, stream } = session.current
      const made = session.current
      const track = stream.getAudioTracks()[0]!
      const player = how.play ? await loaded(context, how.play, how.playDb) : null
      if (gone()) return

      let blocks: Float32Array[][] = []
      let frames = 0
      const clapped = new Promise<void>((heard) => {
        if (!how.byClap) return heard()
        setState({ phase: 'armed' })
        const trigger = new ClapTrigger()
        let ring: Float32Array[][] = []
        made.onBlock = (block, peakDbfs) => {
          ring.push(block)
          const most = Math.ceil((BEFORE_CLAP_S * context.sampleRate) / block[0]!.length)
          if (ring.length > most) ring = ring.slice(-most)
          if (!trigger.hears(peakDbfs)) return
          if (how.clapIsSound) blocks = ring
          made.onBlock = null
          heard()
        }
      })
      await clapped
      if (gone()) return
      if (how.byClap && !how.clapIsSound) await pause(AFTER_CLAP_MS)
      if (!how.byClap)
        for (let left = how.countdownS; left > 0; left -= 1) {
          setState({ phase: 'counting', secondsLeft: left })
          await pause(1000)
          if (gone()) return
        }
      if (gone()) return

      let wasHidden = document.hidden
      const onHide = () => {
        wasHidden ||= document.hidden
      }
      document.addEventListener('visibilitychange', onHide)
      let shown = 0
      frames = blocks.reduce((sum, block) => sum + block[0]!.length, 0)
      const finish = (unplugged: boolean) => {
        made.onBlock = null
        track.removeEventListener('ended', onEnded)
        document.removeEventListener('visibilitychange', onHide)
        player?.stop()
        if (gone()) return
        if (frames < context.sampleRate * 0.5)
          return setState({
            phase: 'failed',
            reason: unplugged ? 'The microphone was unplugged.' : 'The microphone gave no sound.',
            remedy: 'Check that it is plugged in and try again.',
          })
        const all = (blocks[0] ?? []).map((_, c) => joined(blocks.map((block) => block[c] ?? block[0]!)))
        const kept = channel === 'all' ? all : [all[Number(channel) - 1] ?? all[0]!]
        const wav = wavOf(kept, context.sampleRate)
        setState({
          phase: 'done',
          taken: { wav, chain: opened, channel, wasHidden, unplugged },
        })
      }
      const onEnded = () => finish(true) // unplugged midway: keep what is there
      track.addEventListener('ended', onEnded)
      stopRun.current = () => {
        made.onBlock = null
        track.removeEventListener('ended', onEnded)
        document.removeEventListener('visibilitychange', onHide)
        player?.stop()
      }
      made.onBlock = (block) => {
        blocks.push(block)
        frames += block[0]!.length
        const elapsedS = frames / context.sampleRate
        if (elapsedS >= how.seconds) return finish(false)
        if (elapsedS - shown > 0.1) {
          shown = elapsedS
          setState({ phase: 'recording', elapsedS, totalS: how.seconds })
        }
      }
      player?.start()
      setState({ phase: 'recording', elapsedS: 0, totalS: how.seconds })
    },
    [open],
  )

  /** Hands every block on as it comes, until `cancel`; `onUnplugged` when the microphone goes first. */
  const roll = useCallback((channel: string, onBlock: (block: Float32Array[]) => void, onUnplugged: () => void) => {
    const made = session.current
    if (!made) return
    run.current += 1
    const track = made.stream.getAudioTracks()[0]!
    track.addEventListener('ended', onUnplugged)
    let frames = 0
    let shownS = 0
    made.onBlock = (block) => {
      onBlock(channel === 'all' ? block : [block[Number(channel) - 1] ?? block[0]!])
      frames += block[0]!.length
      const elapsedS = frames / made.context.sampleRate
      if (elapsedS - shownS < 0.1) return
      shownS = elapsedS
      setState({ phase: 'rolling', elapsedS })
    }
    stopRun.current = () => {
      made.onBlock = null
      track.removeEventListener('ended', onUnplugged)
    }
    setState({ phase: 'rolling', elapsedS: 0 })
  }, [])

  /** Stops whatever runs and keeps nothing; the microphone stays open. */
  const cancel = useCallback(() => {
    run.current += 1
    stopRunning()
    if (session.current) {
      session.current.onBlock = null
      setState({ phase: 'open' })
    } else setState({ phase: 'closed' })
  }, [])

  /** A second voice into the same loudspeaker, for finding a safe level. */
  const context = useCallback(() => session.current?.context ?? null, [])

  return { state, level, chain, devices, open, start, roll, cancel, context }
}

const pause = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

async function loaded(context: AudioContext, address: string, gainDb: number) {
  const answer = await fetch(address)
  const source = context.createBufferSource()
  source.buffer = await context.decodeAudioData(await answer.arrayBuffer())
  const gain = context.createGain()
  gain.gain.value = 10 ** (gainDb / 20)
  source.connect(gain).connect(context.destination)
  let started = false
  return {
    start: () => {
      started = true
      source.start()
    },
    stop: () => {
      if (started) source.stop()
      started = false
      gain.disconnect()
    },
  }
}
