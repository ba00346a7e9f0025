import { useMutation } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { Reading } from '../api/client'
import { Song, type SongAsk, type Told } from '../record/song'
import type { Chain, useMicrophone } from '../record/use-microphone'
import { useRoom } from '../state/room'

const KEYED = 'input, textarea, select, button'
const NOTHING: Told = { clippedS: [], puffsS: [], trouble: null }

/** A song recorded until it is stopped, by button or by space; `canStart`: space begins one, too. */
export function useSong(
  mic: ReturnType<typeof useMicrophone>,
  how: { gain: string; channel: string; canStart: boolean; onTaken: (reading: Reading) => Promise<void> },
) {
  const { id, active, flush } = useRoom()
  const [told, setTold] = useState(NOTHING)
  const song = useRef<Song | null>(null)
  const isRolling = useRef(false)
  isRolling.current = mic.state.phase === 'rolling'
  const begin = useMutation({
    mutationFn: async (chain: Chain) => {
      await flush()
      setTold(NOTHING)
      const settings = {
        device: chain.device,
        gain: how.gain,
        channel: how.channel,
        rate_hz: chain.rateHz,
        not_raw: chain.notRaw,
      }
      const ask: SongAsk = {
        rateHz: chain.rateHz,
        channels: how.channel === 'all' ? Math.min(chain.channels, 2) : 1,
        arrangementId: active.id,
        settings,
      }
      const begun = await Song.begin(id, ask, setTold)
      song.current = begun
      mic.roll(
        how.channel,
        (block) => begun.add(block),
        () => end.mutate(), // unplugged midway: what is there is filed
      )
    },
  })
  const end = useMutation({
    mutationFn: async () => {
      mic.cancel()
      return song.current!.end()
    },
    onSuccess: how.onTaken,
  })
  const drop = () => {
    mic.cancel()
    void song.current?.drop()
  }
  const start = () => mic.chain && begin.mutate(mic.chain)
  const space = useRef<(() => void) | null>(null)
  space.current = isRolling.current
    ? () => end.mutate()
    : how.canStart && !begin.isPending && !end.isPending
      ? start
      : null
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      // the button that began it may still have the focus, or the place's Close: while it rolls space means stop, but on
      // the two buttons beside the clock
      const taken = isRolling.current ? 'input, textarea, select, [data-testid=rolling] button' : KEYED
      const isTyping = event.target instanceof HTMLElement && event.target.closest(taken)
      if (event.key !== ' ' || event.repeat || isTyping || !space.current) return
      event.preventDefault()
      space.current()
    }
    addEventListener('keydown', onKey)
    return () => removeEventListener('keydown', onKey)
  }, [])
  return { told, begin, end, start, drop, name: () => song.current?.id ?? null }
}
