import { useState } from 'react'
import { SchoolsBench } from '../../moves/schools'
import { Segmented } from '../../ui/segmented'
import { Hear } from './hear'
import { Make } from './make'
import { Plan } from './plan'
import { Sheets } from './sheets'
import { Shelf } from './shelf'

const LOOKS = [
  { key: 'shelf', name: 'Shelf' },
  { key: 'plan', name: 'Plan for me' },
  { key: 'sheets', name: 'Sheets' },
  { key: 'hear', name: 'Hear it' },
  { key: 'make', name: 'Make it' },
  { key: 'schools', name: 'Two schools' },
] as const

/** Under the walls: what may be hung, a plan, arrangements kept, how it would sound, what it takes. */
export function TreatBench() {
  const [look, setLook] = useState<(typeof LOOKS)[number]['key']>('shelf')
  const [planned, setPlanned] = useState(false)
  const choose = (to: typeof look) => {
    setLook(to)
    if (to === 'plan') setPlanned(true)
  }
  return (
    <div>
      <div className="mb-1.5">
        <Segmented small label="What to treat with" value={look} options={LOOKS} onChange={choose} />
      </div>
      {look === 'shelf' ? <Shelf /> : null}
      {/* plans took their time to find: they stay while one looks at sheets */}
      {planned ? (
        <div hidden={look !== 'plan'}>
          <Plan />
        </div>
      ) : null}
      {look === 'sheets' ? <Sheets /> : null}
      {look === 'hear' ? <Hear /> : null}
      {look === 'make' ? <Make /> : null}
      {look === 'schools' ? <SchoolsBench about="treatment" /> : null}
    </div>
  )
}
