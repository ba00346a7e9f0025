import { useEffect, useRef, useState } from 'react'
import { Button } from '../ui/button'
import { LevelBar } from './level-bar'

const STEP_DB = 3
const STEP_MS = 650
const FROM_DB = -42
const MOST_DB = 0
/** Loud enough at the microphone for a decay to be read above an ordinary room. */
const ENOUGH_DBFS = -20

type Props = {
  context: () => AudioContext | null
  dbfs: number
  onChosen: (gainDb: number) => void
  onCancel: () => void
}

/** Soft rushing noise that grows in small steps until the microphone hears it well, or until you say so. Then it asks. */
export function SafeLevel({ context, dbfs, onChosen, onCancel }: Props) {
  const [gainDb, setGainDb] = useState(FROM_DB)
  const [asking, setAsking] = useState(false)
  const gain = useRef<GainNode | null>(null)
  useEffect(() => {
    const audio = context()
    if (!audio) return
    const noise = audio.createBufferSource()
    noise.buffer = rushing(audio)
    noise.loop = true
    const node = audio.createGain()
    node.gain.value = 0
    noise.connect(node).connect(audio.destination)
    noise.start()
    gain.current = node
    return () => {
      noise.stop()
      node.disconnect()
    }
  }, [context])
  useEffect(() => {
    const audio = context()
    if (audio) gain.current?.gain.setTargetAtTime(asking ? 0 : 10 ** (gainDb / 20), audio.currentTime, 0.08)
  }, [asking, context, gainDb])
  const enough = dbfs > ENOUGH_DBFS
  useEffect(() => {
    if (asking) return
    if (enough || gainDb >= MOST_DB) {
      const timer = setTimeout(() => setAsking(true), STEP_MS)
      return () => clearTimeout(timer)
    }
    const timer = setTimeout(() => setGainDb((now) => Math.min(now + STEP_DB, MOST_DB)), STEP_MS)
    return () => clearTimeout(timer)
  }, [asking, enough, gainDb])
  return (
    <section className="space-y-3" data-testid="safe-level" aria-label="Finding a safe level">
      <h3 className="font-display text-large font-bold">
        {asking ? 'Was that comfortable?' : 'Getting louder, a little at a time'}
      </h3>
      <LevelBar dbfs={dbfs} good={[ENOUGH_DBFS, -4]} big />
      {asking ? (
        <>
          <p className="text-ink-2">
            {enough
              ? 'The microphone hears it well. The sweep will be as loud as that, and shrill at its end.'
              : 'The microphone hardly hears it. Turn the loudspeaker up by hand and try again, or go on: the verdict will say whether it was enough.'}
          </p>
          <div className="flex flex-wrap gap-2">
            <Button look="main" onClick={() => onChosen(gainDb)}>
              Yes, use it
            </Button>
            <Button onClick={() => onChosen(Math.max(gainDb - 6, FROM_DB))}>Too loud: 6 dB less</Button>
            <Button
              look="quiet"
              onClick={() => {
                setGainDb(FROM_DB)
                setAsking(false)
              }}
            >
              Again from quiet
            </Button>
          </div>
        </>
      ) : (
        <div className="flex flex-wrap gap-2">
          <Button look="warm" onClick={() => setAsking(true)}>
            Loud enough
          </Button>
          <Button look="quiet" onClick={onCancel}>
            Stop
          </Button>
        </div>
      )}
    </section>
  )
}

/** A second of noise between 300 Hz and 3 kHz, as loud as the sweep file. */
function rushing(audio: AudioContext): AudioBuffer {
  const n = Math.round(audio.sampleRate)
  const buffer = audio.createBuffer(1, n, audio.sampleRate)
  const samples = buffer.getChannelData(0)
  let low = 0
  let lower = 0
  let seed = 1
  for (let i = 0; i < n; i += 1) {
    seed = (seed * 16807) % 2147483647
    const white = seed / 1073741823 - 1
    low += (white - low) * 0.32
    lower += (low - lower) * 0.04
    samples[i] = low - lower
  }
  const rms = Math.sqrt(samples.reduce((sum, v) => sum + v * v, 0) / n)
  const wanted = 0.25 / Math.SQRT2
  for (let i = 0; i < n; i += 1) samples[i] = (samples[i]! / rms) * wanted
  return buffer
}
