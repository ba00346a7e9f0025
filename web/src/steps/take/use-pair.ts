import { useEffect, useRef } from 'react'

const FADE_S = 0.02

type Running = { key: string; context: AudioContext; gains: GainNode[]; levels: number[]; end: () => void }

/** Two sounds running side by side, one of them heard; the switch fades within some milliseconds. */
export function usePair() {
  const made = useRef<Running | null>(null)
  const asked = useRef('')
  const stop = () => {
    asked.current = ''
    made.current?.end()
    made.current = null
  }
  useEffect(() => stop, [])
  /** matched : made equally loud, by the loudness of just what is heard; null where it could not be told. */
  const play = async (pair: readonly [string, string], first: boolean, { matched }: { matched: boolean }) => {
    const key = pair.join(' ')
    if (made.current?.key !== key) {
      // a second press while the first still loads must not start another pair beside it
      if (asked.current === key) return
      stop()
      asked.current = key
      const context = new AudioContext()
      const loaded = await load(context, pair).catch(() => null)
      if (!loaded || asked.current !== key) {
        // what did not come may be asked for again
        if (asked.current === key) asked.current = ''
        void context.close()
        return
      }
      const { loud, buffers } = loaded
      const sources = buffers.map((buffer) => {
        const source = context.createBufferSource()
        source.buffer = buffer
        source.loop = true
        return source
      })
      const gains = sources.map((source) => {
        const gain = context.createGain()
        gain.gain.value = 0
        source.connect(gain).connect(context.destination)
        return gain
      })
      sources.forEach((source) => source.start())
      // the louder of the two is turned down to the other
      const louder = matched && loud.every(Number.isFinite) ? loud[0]! - loud[1]! : 0
      made.current = {
        key,
        context,
        gains,
        levels: [10 ** (-Math.max(louder, 0) / 20), 10 ** (Math.min(louder, 0) / 20)],
        end: () => {
          sources.forEach((source) => source.stop())
          void context.close()
        },
      }
    }
    const { context, gains, levels } = made.current
    gains.forEach((gain, i) =>
      gain.gain.setTargetAtTime((i === 0) === first ? levels[i]! : 0, context.currentTime, FADE_S / 3),
    )
  }
  return { play, stop }
}

async function load(context: AudioContext, pair: readonly [string, string]) {
  const answers = await Promise.all(pair.map((address) => fetch(address)))
  const loud = answers.map((answer) => Number(answer.headers.get('x-loudness-lufs') ?? NaN))
  const buffers = await Promise.all(answers.map(async (answer) => context.decodeAudioData(await answer.arrayBuffer())))
  return { loud, buffers }
}
