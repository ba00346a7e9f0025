import type { Form } from '../api/client'
import { useDesk } from '../rooms/use-desk'
import { Empty } from './empty'
import { FormBench } from './forms'
import { usePredicted } from '../state/forecast'
import { Waiting } from './predicted-stage'
import { Notice } from '../ui/notice'
import { useBest, useReading, useReadingDamage } from './use-best'

/** The reading that is open, shown as its form is; until one is chosen, the best response. */
export function ReadingStage() {
  const { reading: chosen } = useDesk()
  const best = useBest('response')
  const opened = useReading(chosen)
  const reading = chosen ? opened : best
  const { active, trouble } = usePredicted()
  const damage = useReadingDamage(chosen)
  if (damage) return <Notice tone="stop" title={damage.title} body={damage.cure} />
  if (reading === undefined || !(active || trouble)) return <Waiting />
  return reading ? (
    <FormBench key={reading.id} reading={reading} />
  ) : (
    <Empty title="What does the room say?" text="Take a sweep, a silence or a test take; the figures come here." />
  )
}

/** The best reading of one form, or what would bring one. */
export function KindsStage({ form, title, text }: { form: Form; title: string; text: string }) {
  const { reading: chosen } = useDesk()
  const reading = useBest(form, chosen)
  if (reading === undefined) return <Waiting />
  return reading ? <FormBench key={reading.id} reading={reading} /> : <Empty title={title} text={text} />
}
