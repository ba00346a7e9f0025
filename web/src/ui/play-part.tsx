import { useEffect, useRef, useState } from 'react'
import { Button } from './button'

/** One sound at a time, whoever asked for it. */
let sounding: { audio: HTMLAudioElement; ended: () => void } | null = null

type Props = { address: string; label: string; name?: string; volume?: number }

/** Plays part of a recording; a second press stops it. */
export function PlayPart({ address, label, name = 'Play', volume = 1 }: Props) {
  const [on, setOn] = useState(false)
  const mine = useRef<HTMLAudioElement | null>(null)
  const stop = () => {
    mine.current?.pause()
    mine.current = null
    setOn(false)
  }
  useEffect(() => () => mine.current?.pause(), [])
  const play = () => {
    sounding?.audio.pause()
    sounding?.ended()
    const audio = new Audio(address)
    audio.volume = volume
    audio.onended = stop
    audio.onerror = stop
    mine.current = audio
    sounding = { audio, ended: () => setOn(false) }
    setOn(true)
    void audio.play().catch(stop)
  }
  return (
    <Button small look="quiet" onClick={on ? stop : play} aria-pressed={on}>
      <svg width="11" height="12" viewBox="0 0 11 12" aria-hidden>
        {on ? (
          <path d="M1 1h3.4v10H1zM6.6 1H10v10H6.6z" fill="currentColor" />
        ) : (
          <path d="M1 .8v10.4L10.4 6z" fill="currentColor" />
        )}
      </svg>
      {on ? 'Stop' : name}
      <span className="sr-only">: {label}</span>
    </Button>
  )
}

export const partOf = (readingId: string, fromS: number, toS: number) =>
  `/api/readings/${readingId}/part.wav?from_s=${Math.max(fromS, 0).toFixed(2)}&to_s=${toS.toFixed(2)}`
