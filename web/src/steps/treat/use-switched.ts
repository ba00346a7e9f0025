import { useCallback, useEffect, useRef, useState } from 'react'

type Rack = { context: AudioContext; source: AudioBufferSourceNode; gains: GainNode[] }
const GLIDE_S = 0.012

/** Plays a sound whose channels are versions of one line, over and over; switching glides from one to the other. */
export function useSwitched(chosen: number) {
  const rack = useRef<Rack | null>(null)
  const wanted = useRef(chosen)
  const [playing, setPlaying] = useState(false)
  wanted.current = chosen

  const stop = useCallback(() => {
    rack.current?.source.stop()
    void rack.current?.context.close()
    rack.current = null
    setPlaying(false)
  }, [])
  useEffect(() => stop, [stop])
  useEffect(() => {
    rack.current?.gains.forEach((gain, i) =>
      gain.gain.setTargetAtTime(i === chosen ? 1 : 0, rack.current!.context.currentTime, GLIDE_S),
    )
  }, [chosen])

  const play = useCallback(
    async (sound: ArrayBuffer) => {
      stop()
      const context = new AudioContext()
      const buffer = await context.decodeAudioData(sound.slice(0))
      const source = new AudioBufferSourceNode(context, { buffer, loop: true })
      const splitter = new ChannelSplitterNode(context, { numberOfOutputs: buffer.numberOfChannels })
      source.connect(splitter)
      const gains = Array.from({ length: buffer.numberOfChannels }, (_, i) => {
        const gain = new GainNode(context, { gain: i === wanted.current ? 1 : 0 })
        splitter.connect(gain, i)
        return gain
      })
      gains.forEach((gain) => gain.connect(context.destination))
      rack.current = { context, source, gains }
      source.start()
      setPlaying(true)
    },
    [stop],
  )
  return { play, stop, playing }
}
