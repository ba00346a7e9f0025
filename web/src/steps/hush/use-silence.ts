import { useCallback, useEffect, useRef } from 'react'
import { roomChanged } from '../../api/cache'
import { api, type Reading } from '../../api/client'
import { ofReading, rigReading, uploadReading } from '../../api/queries'
import { type Microphone, useMicrophone } from '../../record/use-microphone'
import { useRoom } from '../../state/room'
import { useLeaving } from '../../ui/use-leaving'

export type Way = 'browser' | 'rig'
type Asked = {
  way: Way
  seconds: number
  countdownS: number
  silenced: readonly string[]
  note: string
  gainDb?: number
}

/** Takes silences one after the other, with the microphone or the practice rig, and files each with a note. */
export function useSilence() {
  const { id, active, flush } = useRoom()
  const leaving = useLeaving()
  const mic = useMicrophone()
  const waiting = useRef<{ done: (state: Microphone) => void } | null>(null)
  const { state } = mic
  useEffect(() => {
    if (!waiting.current || (state.phase !== 'done' && state.phase !== 'failed')) return
    waiting.current.done(state)
    waiting.current = null
  }, [state])

  const { start } = mic
  const take = useCallback(
    async ({ way, seconds, countdownS, silenced, note, gainDb = 0 }: Asked): Promise<Reading> => {
      await flush()
      let reading: Reading
      if (way === 'rig') {
        reading = await rigReading(
          id,
          { kind: 'tone', arrangement_id: active.id, gain_db: gainDb, faults: [], silenced: [...silenced], seconds },
          leaving.current.signal,
        )
      } else {
        const ended = new Promise<Microphone>((done) => {
          waiting.current = { done }
        })
        await start({ seconds, countdownS, byClap: false, clapIsSound: false, play: null, playDb: 0 }, 'all')
        const found = await ended
        if (found.phase !== 'done')
          throw new Error(found.phase === 'failed' ? `${found.reason} ${found.remedy}` : 'Stopped.')
        const { taken } = found
        reading = await uploadReading(id, taken.wav, {
          kind: 'tone',
          way: 'browser',
          arrangementId: active.id,
          fileName: 'recorded-tone.wav',
          settings: {
            device: taken.chain.device,
            gain: localStorage.getItem('kq-gain') ?? '',
            channel: taken.channel,
            rate_hz: taken.chain.rateHz,
            not_raw: taken.chain.notRaw,
            was_hidden: taken.wasHidden,
            unplugged: taken.unplugged,
          },
          key: crypto.randomUUID(),
          silenced,
        })
      }
      await api.PATCH('/api/readings/{reading_id}', { ...ofReading(reading.id), body: { note } })
      await roomChanged(id)
      return reading
    },
    [active.id, flush, id, leaving, start],
  )
  return { take, mic }
}
