import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { $api } from '../api/client'
import { ofBoth, roomQueries } from '../api/queries'
import { useDesk } from '../rooms/use-desk'
import { useRoom } from '../state/room'
import { useFiled } from '../state/use-filed'
import { lengthText, useUnits } from '../state/units'
import { useSettled } from '../state/use-settled'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'
import { Caution, Failed, Notice } from '../ui/notice'

/** The marks written down: a page to print, and one mark after the other put back with the phone in hand. */
export function PutBack() {
  const [open, setOpen] = useState(false)
  const { keep, trouble } = useFiled()
  return (
    <section aria-labelledby="marks-sheet" data-testid="marks-sheet">
      <h2 id="marks-sheet" className="text-head">
        The same spot tomorrow
      </h2>
      <p className="mb-1.5 text-note leading-snug text-ink-2">
        Everybody taped from two walls, with heights, angles and switches.
      </p>
      <div className="flex flex-wrap gap-2">
        <Button small onClick={() => keep('/api/marks-sheet.pdf', 'marks')}>
          Marks sheet (PDF)
        </Button>
        <Button small onClick={() => setOpen(true)}>
          Put it back
        </Button>
      </div>
      {PROVING.map((kind) => (
        <Proof key={kind} kind={kind} />
      ))}
      {trouble ? <Notice tone="stop" title={trouble} body="Try again; nothing was changed." /> : null}
      <Sheet open={open} onClose={() => setOpen(false)} title="Put it back">
        <OneByOne onDone={() => setOpen(false)} />
      </Sheet>
    </section>
  )
}

const PROVING = ['sweep', 'spoken'] as const
const SAID = { sweep: 'The last sweep against the one before', spoken: 'The last spoken line against the one before' }

/** Whether the newest reading of a kind says that everybody stands where they stood at the one before it. */
function Proof({ kind }: { kind: (typeof PROVING)[number] }) {
  const { id } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  // of one arrangement only: after a move that was wanted there is nothing to put back
  const [now, then] = readings.filter((r) => r.kind === kind && r.verdict.usable && r.counts && r.current)
  const { data: found } = $api.useQuery(
    'get',
    '/api/readings/{reading_id}/put-back/{other_id}',
    ofBoth(now?.id ?? '', then?.id ?? ''),
    {
      enabled: then !== undefined && now?.simulated === then.simulated,
    },
  )
  if (!found) return null
  return (
    <p className="mt-1.5 text-small leading-snug" data-testid={`proof-${kind}`}>
      <strong className={found.proved ? 'text-felt' : 'text-change'}>
        <span aria-hidden>{found.proved ? '✓' : '!'} </span>
        {SAID[kind]}.
      </strong>{' '}
      {found.text} {found.reasons.join(' ')}
    </p>
  )
}

/** One mark at a time, as large as it is read from a step away; a sweep or a spoken line at the end proves the place. */
function OneByOne({ onDone }: { onDone: () => void }) {
  const { ask, enabled } = useSettled()
  const { take } = useDesk()
  const units = useUnits()
  const [at, setAt] = useState(0)
  const { data: sheet, error } = $api.useQuery('post', '/api/marks-sheet', { body: ask }, { enabled })
  if (error) return <Failed error={error} />
  if (!sheet) return <div className="h-72 animate-pulse rounded-lg bg-floor" aria-label="Working" />
  const mark = sheet.marks[at]
  const prove = (kind: string) => {
    onDone()
    take(kind)
  }
  return (
    <div className="min-h-72 w-full" data-testid="put-back">
      <p className="text-note text-ink-2" aria-live="polite">
        {mark ? `Mark ${at + 1} of ${sheet.marks.length}` : 'All marks stand'}
      </p>
      {mark ? (
        <>
          <h3 className="font-display text-large leading-tight font-bold">{mark.name}</h3>
          <dl className="mt-2 grid grid-cols-[auto_1fr] items-baseline gap-x-4 gap-y-2">
            {mark.walls.map((wall, i) => (
              <div key={wall} className="contents">
                <dt className="font-display text-huge leading-none font-bold whitespace-nowrap">
                  {lengthText(mark.away_m[i]!, units)}
                </dt>
                <dd className="text-head">from {wall}</dd>
              </div>
            ))}
            <dt className="font-display text-huge leading-none font-bold whitespace-nowrap">
              {lengthText(mark.height_m, units)}
            </dt>
            <dd className="text-head">high</dd>
          </dl>
          <p className="mt-2 text-head">
            Looks at {mark.faces}
            {mark.says ? `; ${mark.says.toLowerCase()}` : ''}.
          </p>
        </>
      ) : (
        <>
          <h3 className="font-display text-large leading-tight font-bold">Now prove it</h3>
          <p className="mt-2 text-head">
            {sheet.sounding === 'mouth' ? 'Mouth' : 'Instrument'} to capsule:{' '}
            <strong>{lengthText(sheet.mouth_to_mic_m, units)}</strong>. {sheet.proof}
          </p>
          <ul className="mt-2 list-disc pl-5 text-note text-ink-2">
            {sheet.stand.map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
          <dl className="mt-2 grid grid-cols-[auto_1fr] gap-x-4 text-note">
            {sheet.settings.map(([name, value]) => (
              <div key={name} className="contents">
                <dt className="text-ink-2">{name}</dt>
                <dd className="font-semibold">{value}</dd>
              </div>
            ))}
          </dl>
          {sheet.cautions.map((text) => (
            <Caution key={text} text={text} />
          ))}
          <p className="mt-2 text-note">And as they were:</p>
          <ul className="list-disc pl-5 text-note text-ink-2">
            {sheet.by_hand.map((name) => (
              <li key={name}>{name}</li>
            ))}
          </ul>
        </>
      )}
      <div className="mt-4 flex justify-between gap-2">
        <Button disabled={at === 0} onClick={() => setAt(at - 1)}>
          Back one
        </Button>
        {mark ? (
          <Button look="main" onClick={() => setAt(at + 1)}>
            It stands
          </Button>
        ) : (
          <div className="flex gap-2">
            <Button onClick={() => prove('spoken')}>Say the line</Button>
            <Button look="main" onClick={() => prove('sweep')}>
              Sweep now
            </Button>
          </div>
        )}
      </div>
    </div>
  )
}
