import { useMutation, useQuery } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { inWords, Refused } from '../../api/client'
import { watches } from '../../api/watches'
import { cache } from '../../api/cache'
import { roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'
import { Blocks } from '../../record/blocks'

const BLOCK_S = 3
const PRACTICE_S = 600
const PRACTICE_EVERY_MS = 120
const RETRY_MS = 4000
const DISK_FULL = 507

export type Going = { levelDba: number | null; trouble: string | null; clipsFull: boolean }
const QUIET: Going = { levelDba: null, trouble: null, clipsFull: false }

/** Minutes that local time is ahead of UTC at a moment. */
const offsetAt = (ms: number) => -new Date(ms).getTimezoneOffset()

/** The watch that is going on in this room: fed from the microphone or the practice rig, found again after a reload. */
export function useWatch() {
  const { id: roomId, flush } = useRoom()
  const list = useQuery(roomQueries.watches(roomId))
  const open = list.data?.find((w) => w.ended_at === null && w.way !== 'import') ?? null
  const [going, setGoing] = useState<Going>(QUIET)
  const [paused, setPaused] = useState(false)
  const feed = useRef<{ end: () => void; ended: Promise<void> } | null>(null)
  const refresh = useCallback(async () => {
    await cache.invalidateQueries(roomQueries.watches(roomId))
    await cache.invalidateQueries({ queryKey: ['get', '/api/watches/{watch_id}'] })
  }, [roomId])

  const begin = useMutation({
    mutationFn: async (way: 'browser' | 'rig') => {
      await flush()
      return watches.begin(roomId, way)
    },
    onSuccess: async () => {
      setGoing(QUIET)
      setPaused(false)
      await refresh()
    },
  })
  const stop = useMutation({
    // what is on its way is let in first: a watch that has ended takes nothing more
    mutationFn: async (why: 'asked' | 'disk' | 'microphone') => {
      const ending = open!.id
      feed.current?.end()
      await feed.current?.ended
      return watches.stop(ending, why)
    },
    onSettled: refresh,
  })
  const stopNow = useRef(stop.mutate)
  stopNow.current = stop.mutate

  const openId = open?.id ?? null
  const way = open?.way ?? null
  const nextMs = useRef<number | null>(null)
  nextMs.current = Math.max(nextMs.current ?? 0, open?.next_ms ?? 0) || null
  useEffect(() => {
    if (openId === null || paused) return
    const own = new AbortController()
    const tell = (part: Partial<Going>) => setGoing((now) => ({ ...now, ...part }))
    const feeding =
      way === 'rig'
        ? practise(roomId, openId, () => nextMs.current, own.signal, tell)
        : listen(openId, own.signal, tell)
    const ended = feeding
      .catch((error: unknown) => {
        if (own.signal.aborted) return
        const full = error instanceof Refused && error.status === DISK_FULL
        const { title, cure } = inWords(error)
        tell({ trouble: `${title} ${cure}` })
        if (full) stopNow.current('disk')
        else setPaused(true)
      })
      .finally(() => void refresh())
    feed.current = { end: () => own.abort(), ended }
    const look = setInterval(() => void refresh(), 3000)
    return () => {
      own.abort()
      clearInterval(look)
      nextMs.current = null
    }
  }, [openId, way, paused, roomId, refresh])

  return { list, open, going, paused, begin, stop, goOn: () => setPaused(false) }
}

type Tell = (part: Partial<Going>) => void

/** Ten minutes of the practice night at a time, from where the watch stands. */
async function practise(roomId: string, id: string, from: () => number | null, signal: AbortSignal, tell: Tell) {
  let next = from() ?? Math.floor(Date.now() / 1000) * 1000
  while (!signal.aborted) {
    try {
      const kept = await watches.practice(roomId, id, next, offsetAt(next), PRACTICE_S)
      next = kept.next_ms
      tell({ levelDba: kept.level_dba ?? null, trouble: null })
      await pause(PRACTICE_EVERY_MS, signal)
    } catch (error) {
      if (signal.aborted) return
      if (error instanceof Refused) throw error
      tell({ trouble: 'Keen Quiet is not answering; it is tried again.' })
      await pause(RETRY_MS, signal)
    }
  }
}

/** The microphone, raw, three seconds at a time. A block that cannot be sent is sent again; after a sleep a gap stays. */
async function listen(id: string, signal: AbortSignal, tell: Tell) {
  const stream = await navigator.mediaDevices.getUserMedia({
    audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false, channelCount: { ideal: 1 } },
  })
  const context = new AudioContext()
  const undo = () => {
    stream.getTracks().forEach((track) => track.stop())
    void context.close()
  }
  if (signal.aborted) return undo()
  signal.addEventListener('abort', undo, { once: true })
  try {
    await context.audioWorklet.addModule('/recorder-worklet.js')
    const node = new AudioWorkletNode(context, 'keen-quiet-recorder', { numberOfOutputs: 0 })
    const blocks = new Blocks(context.sampleRate, BLOCK_S)
    node.port.onmessage = ({ data }: MessageEvent<Float32Array[]>) => blocks.add(data[0]!, Date.now())
    context.createMediaStreamSource(stream).connect(node)
    const unplugged = new Promise<never>((_, reject) => {
      stream
        .getAudioTracks()[0]!
        .addEventListener('ended', () =>
          reject(new Refused(0, 'microphone', 'The microphone is gone.', 'Plug it in again and go on.')),
        )
    })
    unplugged.catch(() => undefined)
    while (!signal.aborted) {
      const block = blocks.first()
      if (!block) {
        await Promise.race([pause(500, signal), unplugged])
        continue
      }
      try {
        const kept = await watches.sound(id, block.pcm, block.fromMs, offsetAt(block.fromMs), context.sampleRate)
        blocks.drop()
        tell({
          levelDba: kept.level_dba ?? null,
          trouble: null,
          ...(kept.flags.includes('clips_full') ? { clipsFull: true } : {}),
        })
      } catch (error) {
        if (signal.aborted) return
        if (error instanceof Refused) throw error
        tell({ trouble: 'Keen Quiet is not answering; what is heard is kept here and sent later.' })
        await pause(RETRY_MS, signal)
      }
    }
  } finally {
    signal.removeEventListener('abort', undo)
    undo()
  }
}

const pause = (ms: number, signal: AbortSignal) =>
  new Promise<void>((done) => {
    const timer = setTimeout(done, ms)
    signal.addEventListener('abort', () => (clearTimeout(timer), done()), { once: true })
  })
