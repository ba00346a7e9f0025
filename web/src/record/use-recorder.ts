import { useCallback, useEffect, useRef, useState } from 'react'
import { joined, wavOf } from './wav'

export type Recording =
  | { phase: 'ready' }
  | { phase: 'asking' }
  | { phase: 'counting'; secondsLeft: number }
  | { phase: 'recording'; elapsedS: number; totalS: number; peakDbfs: number; notRaw: string[] }
  | { phase: 'done'; wav: Blob; device: string; notRaw: string[]; wasHidden: boolean }
  | { phase: 'failed'; reason: string; remedy: string }

type Options = {
  seconds: number
  countdownS: number
  /** Played through this computer's loudspeaker meanwhile. */ play: string | null
}

const RAW = { echoCancellation: false, noiseSuppression: false, autoGainControl: false } as const
const RAW_WORDS: Record<keyof typeof RAW, string> = {
  echoCancellation: 'echo cancellation',
  noiseSuppression: 'noise suppression',
  autoGainControl: 'automatic gain',
}

/** What the browser still does to the sound although it was asked not to. */
function alterations(track: MediaStreamTrack): string[] {
  const settings = track.getSettings()
  return (Object.keys(RAW) as (keyof typeof RAW)[]).filter((key) => settings[key] === true).map((key) => RAW_WORDS[key])
}

function inWords(error: unknown): { reason: string; remedy: string } {
  const name = error instanceof DOMException ? error.name : ''
  if (name === 'NotAllowedError')
    return { reason: 'The browser was not allowed to use the microphone.', remedy: 'Allow it at the lock sign in the address bar, or bring a file instead.' }
  if (name === 'NotFoundError')
    return { reason: 'No microphone was found.', remedy: 'Plug one in, or bring a file recorded elsewhere.' }
  if (name === 'NotReadableError')
    return { reason: 'Another program holds the microphone.', remedy: 'Close the other program and try again.' }
  return { reason: 'The microphone could not be opened.', remedy: 'Bring a file recorded elsewhere, or use the practice rig.' }
} // prettier-ignore

/** Records raw sound for a set time, with countdown, live level and automatic stop. Everything started is stopped. */
export function useRecorder({ seconds, countdownS, play }: Options) {
  const [state, setState] = useState<Recording>({ phase: 'ready' })
  const stopAll = useRef<(() => void) | null>(null)

  const reset = useCallback(() => {
    stopAll.current?.()
    stopAll.current = null
    setState({ phase: 'ready' })
  }, [])
  useEffect(() => () => stopAll.current?.(), [])

  const start = useCallback(
    async (deviceId?: string) => {
      stopAll.current?.()
      setState({ phase: 'asking' })
      const undo: (() => void)[] = []
      stopAll.current = () => undo.splice(0).forEach((act) => act())
      const fail = (reason: string, remedy: string) => {
        stopAll.current?.()
        setState({ phase: 'failed', reason, remedy })
      }
      try {
        if (!navigator.mediaDevices?.getUserMedia)
          return fail('This browser gives no microphone to this page.', 'Open it at http://127.0.0.1, or bring a file.')
        const stream = await navigator.mediaDevices.getUserMedia({
          audio: { ...RAW, ...(deviceId ? { deviceId: { exact: deviceId } } : {}) },
        })
        undo.push(() => stream.getTracks().forEach((track) => track.stop()))
        const track = stream.getAudioTracks()[0]!
        const notRaw = alterations(track)
        const context = new AudioContext()
        undo.push(() => void context.close())
        await context.audioWorklet.addModule('/recorder-worklet.js')
        const player = play ? await loaded(context, play) : null

        for (let left = countdownS; left > 0; left -= 1) {
          setState({ phase: 'counting', secondsLeft: left })
          await new Promise((done) => setTimeout(done, 1000))
          if (undo.length === 0) return // cancelled meanwhile
        }

        const blocks: Float32Array[][] = []
        let frames = 0
        let peak = 0
        let wasHidden = false
        const onHide = () => {
          wasHidden ||= document.hidden
        }
        document.addEventListener('visibilitychange', onHide)
        undo.push(() => document.removeEventListener('visibilitychange', onHide))
        const node = new AudioWorkletNode(context, 'keen-quiet-recorder', { numberOfOutputs: 0 })
        const source = context.createMediaStreamSource(stream)
        const finish = () => {
          stopAll.current?.()
          const channels = (blocks[0] ?? []).map((_, c) => joined(blocks.map((block) => block[c]!)))
          if (frames < context.sampleRate * 0.5)
            return setState({
              phase: 'failed',
              reason: 'The microphone gave no sound.',
              remedy: 'Check that it is plugged in and try again.',
            })
          setState({
            phase: 'done',
            wav: wavOf(channels, context.sampleRate),
            device: track.label || 'microphone',
            notRaw,
            wasHidden,
          })
        }
        track.addEventListener('ended', finish) // unplugged midway: keep what is there
        undo.push(() => track.removeEventListener('ended', finish))
        let shown = 0
        node.port.onmessage = ({ data }: MessageEvent<Float32Array[]>) => {
          blocks.push(data)
          frames += data[0]!.length
          for (const value of data[0]!) peak = Math.max(peak, Math.abs(value))
          const elapsedS = frames / context.sampleRate
          if (elapsedS - shown > 0.1) {
            shown = elapsedS
            setState({
              phase: 'recording',
              elapsedS,
              totalS: seconds,
              peakDbfs: 20 * Math.log10(Math.max(peak, 1e-6)),
              notRaw,
            })
            peak *= 0.7
          }
          if (elapsedS >= seconds) finish()
        }
        undo.push(() => {
          node.port.onmessage = null
          source.disconnect()
        })
        source.connect(node)
        player?.start()
        setState({ phase: 'recording', elapsedS: 0, totalS: seconds, peakDbfs: -120, notRaw })
      } catch (error) {
        const { reason, remedy } = inWords(error)
        fail(reason, remedy)
      }
    },
    [countdownS, play, seconds],
  )

  return { state, start, reset }
}

async function loaded(context: AudioContext, address: string): Promise<AudioBufferSourceNode> {
  const answer = await fetch(address)
  const source = context.createBufferSource()
  source.buffer = await context.decodeAudioData(await answer.arrayBuffer())
  source.connect(context.destination)
  return source
}
