import { useMutation, useQuery } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { inWords, Refused } from '../../api/client'
import { watches } from '../../api/watches'
import { cache } from '../../api/cache'
import { roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'
import { Blocks } from '../../record/blocks'
import { type Heard, Sender } from '../../record/held'
import { blocksOnDisk } from '../../record/kept'

const BLOCK_S = 3
const PRACTICE_S = 600
const PRACTICE_EVERY_MS = 120
const RETRY_MS = 4000
const OTHERS_EVERY_MS = 3000
const TAKEN_OVER = 409

export type Going = Heard & { trouble: string | null }
const QUIET: Going = { levelDba: null, trouble: null, clipsFull: false }

/** Minutes that local time is ahead of UTC at a moment. */
const offsetAt = (ms: number) => -new Date(ms).getTimezoneOffset()

/** This page's own name among devices: it lives through a reload, and no other page has it. */
function thisDevice(): string {
  const known = sessionStorage.getItem('kq-device')
  if (known) return known
  // over plain http a browser makes no UUID, but random numbers
  const made = Array.from(crypto.getRandomValues(new Uint32Array(4)), (n) => n.toString(16).padStart(8, '0')).join('-')
  sessionStorage.setItem('kq-device', made)
  return made
}

/**
 * The watch that is going on in this room: fed from the microphone or the practice rig, found again after a reload, and
 * only looked on where another device feeds it.
 */
export function useWatch() {
  const { id: roomId, flush } = useRoom()
  const list = useQuery(roomQueries.watches(roomId))
  const open = list.data?.find((w) => w.ended_at === null && w.way !== 'import') ?? null
  const [going, setGoing] = useState<Going>(QUIET)
  const [paused, setPaused] = useState(false)
  const isOthers = open !== null && open.device !== '' && open.device !== thisDevice()
  const feed = useRef<{ end: () => void; ended: Promise<void> } | null>(null)
  const refresh = useCallback(async () => {
    await cache.invalidateQueries(roomQueries.watches(roomId))
    await cache.invalidateQueries({ queryKey: ['get', '/api/watches/{watch_id}'] })
  }, [roomId])

  const begin = useMutation({
    mutationFn: async (way: 'browser' | 'rig') => {
      await flush()
      return watches.begin(roomId, way, thisDevice())
    },
    onSuccess: async () => {
      setGoing(QUIET)
      setPaused(false)
      await refresh()
    },
  })
  const takeOver = useMutation({
    mutationFn: () => watches.takeOver(open!.id, thisDevice()),
    onSuccess: () => setPaused(false),
    onSettled: refresh,
  })
  const stop = useMutation({
    // what is on its way is let in first, as far as the server answers
    mutationFn: async () => {
      const ending = open!.id
      feed.current?.end()
      await feed.current?.ended
      setPaused(true)
      await senderOf(ending)
        .drained()
        .catch(() => undefined)
      return watches.stop(ending, 'asked')
    },
    onSettled: refresh,
  })

  const openId = open?.id ?? null
  const way = open?.way ?? null
  const nextMs = useRef<number | null>(null)
  nextMs.current = Math.max(nextMs.current ?? 0, open?.next_ms ?? 0) || null
  useEffect(() => {
    if (openId === null || paused) return
    const look = setInterval(() => void refresh(), OTHERS_EVERY_MS)
    if (isOthers) return () => clearInterval(look)
    const own = new AbortController()
    const tell = (part: Partial<Going>) => setGoing((now) => ({ ...now, ...part }))
    const feeding =
      way === 'rig'
        ? practise(roomId, openId, () => nextMs.current, own.signal, tell)
        : listen(openId, own.signal, tell)
    const ended = feeding
      .catch((error: unknown) => {
        if (own.signal.aborted) return
        // another device listens, or the watch was stopped from one: the list says so
        if (error instanceof Refused && (error.status === TAKEN_OVER || error.field === 'watch')) return
        const { title, cure } = inWords(error)
        tell({ trouble: `${title} ${cure}` })
        setPaused(true)
      })
      .finally(() => void refresh())
    feed.current = { end: () => own.abort(), ended }
    return () => {
      own.abort()
      clearInterval(look)
      nextMs.current = null
    }
  }, [openId, way, paused, isOthers, roomId, refresh])

  // what waits here of watches that are over: it was heard before they ended, and is taken still
  const overIds = (list.data ?? []).flatMap((w) => (w.ended_at !== null && w.way === 'browser' ? [w.id] : [])).join(' ')
  useEffect(() => {
    for (const id of overIds.split(' ').filter(Boolean))
      void senderOf(id)
        .drained()
        .catch(() => undefined)
  }, [overIds])

  return { list, open, going, paused, isOthers, begin, takeOver, stop, goOn: () => setPaused(false) }
}

type Tell = (part: Partial<Going>) => void

const senderOf = (id: string, tell: Tell = () => undefined, signal?: AbortSignal) =>
  new Sender(
    id,
    blocksOnDisk,
    (block) => watches.sound(block, thisDevice()),
    tell,
    (ms) => pause(ms, signal ?? new AbortController().signal),
  )

/** Ten minutes of the practice night at a time, from where the watch stands. */
async function practise(roomId: string, id: string, from: () => number | null, signal: AbortSignal, tell: Tell) {
  let next = from() ?? Math.floor(Date.now() / 1000) * 1000
  while (!signal.aborted) {
    try {
      const kept = await watches.practice(roomId, id, next, offsetAt(next), PRACTICE_S, thisDevice())
      next = kept.next_ms
      tell({ levelDba: kept.level_dba ?? null, trouble: null })
      await pause(PRACTICE_EVERY_MS, signal)
    } catch (error) {
      if (signal.aborted) return
      if (error instanceof Refused && error.status < 500) throw error
      tell({ trouble: `${inWords(error).title} It is tried again.` })
      await pause(RETRY_MS, signal)
    }
  }
}

/** The microphone, raw, three seconds at a time, kept on this device until the server has it; after a sleep a gap stays. */
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
    const sender = senderOf(id, tell, signal)
    const rateHz = Math.round(context.sampleRate)
    const blocks = new Blocks(rateHz, BLOCK_S, ({ fromMs, pcm }) => {
      void sender.add({ watchId: id, fromMs, offsetMin: offsetAt(fromMs), rateHz, pcm })
    })
    node.port.onmessage = ({ data }: MessageEvent<Float32Array[]>) => blocks.add(data[0]!, Date.now())
    context.createMediaStreamSource(stream).connect(node)
    const unplugged = new Promise<never>((_, reject) => {
      stream
        .getAudioTracks()[0]!
        .addEventListener('ended', () =>
          reject(new Refused(0, 'microphone', 'The microphone is gone.', 'Plug it in again and go on.')),
        )
    })
    await Promise.race([sender.run(signal), unplugged])
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
