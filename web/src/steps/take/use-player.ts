import { useCallback, useEffect, useRef, useState } from 'react'
import type { Span } from './span'

export type Player = {
  atS: number
  playing: boolean
  loop: Span | null
  /** From a moment on, or round a stretch. */
  play: (atS: number, loop?: Span | null) => void
  stop: () => void
  seek: (atS: number) => void
}

/** The recording itself, from any moment, or round and round a stretch of it. */
export function usePlayer(readingId: string): Player {
  const audio = useRef<HTMLAudioElement | null>(null)
  const round = useRef<Span | null>(null)
  const [atS, setAt] = useState(0)
  const [playing, setPlaying] = useState(false)
  const [loop, setLoop] = useState<Span | null>(null)
  useEffect(() => {
    const made = new Audio(`/api/readings/${readingId}/audio`)
    made.preload = 'auto'
    made.onended = () => setPlaying(false)
    made.onpause = () => setPlaying(false)
    audio.current = made
    return () => {
      made.pause()
      audio.current = null
    }
  }, [readingId])
  useEffect(() => {
    if (!playing) return
    let frame = 0
    const follow = () => {
      const made = audio.current
      const stretch = round.current
      if (made) {
        if (stretch && (made.currentTime >= stretch[1] || made.currentTime < stretch[0] - 0.1))
          made.currentTime = stretch[0]
        setAt(made.currentTime)
      }
      frame = requestAnimationFrame(follow)
    }
    frame = requestAnimationFrame(follow)
    return () => cancelAnimationFrame(frame)
  }, [playing])
  const seek = useCallback((to: number) => {
    if (audio.current) audio.current.currentTime = to
    setAt(to)
  }, [])
  const play = useCallback(
    (from: number, stretch: Span | null = null) => {
      round.current = stretch
      setLoop(stretch)
      seek(from)
      setPlaying(true)
      audio.current?.play().catch(() => setPlaying(false))
    },
    [seek],
  )
  const stop = useCallback(() => {
    audio.current?.pause()
    round.current = null
    setLoop(null)
    setPlaying(false)
  }, [])
  return { atS, playing, loop, play, stop, seek }
}
