import { useQuery } from '@tanstack/react-query'
import type { ReadingSummary } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { BenchHeight } from '../../bench/height'
import { ReadingStage } from '../../bench/reading-stage'
import { useBest, useReading } from '../../bench/use-best'
import { ReadingRows } from '../../listen/reading-rows'
import { TakeReading } from '../../listen/take-reading'
import { Verdict } from '../../listen/verdict'
import { BenchCard } from '../../rooms/bench-card'
import { useDesk } from '../../rooms/use-desk'
import { Head } from '../../rooms/head'
import { useKinds } from '../../state/catalogue'
import { usePredicted } from '../../state/forecast'
import { useRoom } from '../../state/room'
import { useWide } from '../../state/wide'
import { Button } from '../../ui/button'
import { Whole } from '../../ui/whole'
import { FitSection } from './fit'

/** The readings as rows, the open one large. */
export function ListenStage() {
  const { id } = useRoom()
  const { reading } = useDesk()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const best = useBest('response')
  const current = readings.find((r) => r.id === (reading ?? best?.id))
  const wide = useWide()
  const opened = useReading(reading)
  const { active, trouble } = usePredicted()
  // on a phone the rows lie under the open reading: they come once its height is known, and are not pushed down
  const settled = wide || ((reading ? opened : best) !== undefined && (active ?? trouble) !== undefined)
  return (
    <>
      <Head question="What does the room say?" answer={<FirstLine readings={readings} />} />
      <div className="grid min-h-0 flex-1 grid-cols-[300px_minmax(0,1fr)] gap-3 max-lg:flex max-lg:min-h-dvh max-lg:flex-col-reverse max-lg:justify-end">
        <div className="min-h-0 overflow-y-auto max-lg:overflow-visible">
          {settled ? <ReadingRows fallback={best?.id ?? null} /> : null}
        </div>
        <div className="flex min-h-0 flex-col gap-2">
          <BenchCard className="min-h-0 flex-1 overflow-y-auto max-lg:min-h-[39.5rem]">
            <BenchHeight value={360}>
              <Whole what="This reading" again={reading}>
                <ReadingStage />
              </Whole>
            </BenchHeight>
          </BenchCard>
          {current && settled ? <Verdict reading={current} /> : null}
        </div>
      </div>
    </>
  )
}

function FirstLine({ readings }: { readings: readonly ReadingSummary[] }) {
  const { active } = usePredicted()
  const best = useBest('response')
  if (readings.length === 0) return 'Nothing has been read here yet: a clap takes half a minute, a sweep tells most.'
  if (!active || best === undefined) return ''
  // measured where the room was read as it is, else predicted: the same figure as Bounce has
  const middle = active.decay_middle
  const [low, high] = active.marks.bounce.decay_wanted_s
  return `${middle.measured ? 'It hangs on' : 'As drawn it would hang on'} for ${middle.value_s.toFixed(2)} s in the middle${low != null && high != null ? `; ${low.toFixed(1)} to ${high.toFixed(1)} s is wanted` : ''}. ${active.marks.boom.sentence}`
}

/** What to read next, and why; what was read against what is drawn. */
export function ListenSide() {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  return (
    <div className="space-y-3">
      <Next readings={readings} />
      <TakeReading />
      <FitSection readings={readings.filter((r) => r.form === 'response' && r.counts && r.verdict.usable).length} />
    </div>
  )
}

const LACKING = [
  { kind: 'sweep', also: ['clap', 'ir'], why: 'It tells how long the room hangs on and what comes back first.' },
  { kind: 'tone', also: [], why: 'It tells what is there when nobody plays.' },
  { kind: 'take', also: ['loudest', 'spoken'], why: 'It tells whether level, distance and breath are right.' },
  { kind: 'glide', also: [], why: 'It tells which notes swell where you stand.' },
] as const

/** The first reading that is lacking, or was taken before something changed. */
function Next({ readings }: { readings: readonly ReadingSummary[] }) {
  const { kindOf } = useKinds()
  const { take } = useDesk()
  const of = (kinds: readonly string[]) =>
    readings.filter((r) => kinds.includes(r.kind) && r.verdict.usable && r.counts)
  const lacking = LACKING.find(({ kind, also }) => of([kind, ...also]).length === 0)
  const stale = LACKING.find(({ kind, also }) => {
    const [newest] = of([kind, ...also])
    return newest && newest.current === false
  })
  const next = lacking ?? stale
  if (!next) return null
  const since = of([next.kind, ...next.also])[0]?.since
  return (
    <section className="rounded-xl bg-felt-soft/60 px-3 py-2" data-testid="next-reading">
      <h2 className="text-plain">Read next: {kindOf(next.kind).name.toLowerCase()}</h2>
      <p className="text-small text-ink-2">
        {lacking ? next.why : `The last one was taken before ${since ?? 'something'} changed. ${next.why}`} Microphone
        where it will record.
      </p>
      <Button small look="main" className="mt-1.5" onClick={() => take(next.kind)}>
        {kindOf(next.kind).name} now
      </Button>
    </section>
  )
}
