import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { $api, inWords, type ReadingSummary } from '../../api/client'
import { ofBoth, roomQueries } from '../../api/queries'
import { useDesk } from '../../rooms/use-desk'
import { useRoom } from '../../state/room'
import { Button } from '../../ui/button'
import { Notice } from '../../ui/notice'
import { Select } from '../../ui/select'

const nameOf = (r: ReadingSummary) => `${r.note || r.kind}, ${new Date(r.taken_at).toLocaleTimeString().slice(0, 5)}`

/** A line spoken into both sides tells which is the front: asked for before anything else is believed. */
export function Front() {
  const { id, active } = useRoom()
  const { take } = useDesk()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const lines = readings.filter((r) => r.kind === 'spoken')
  const [chosen, setChosen] = useState<{ front?: string; back?: string }>({})
  const front = chosen.front ?? lines[1]?.id
  const back = chosen.back ?? lines[0]?.id
  return (
    <div className="space-y-2" data-testid="front">
      <p className="text-note text-ink-2">
        Say the same line a hand&apos;s width away into one side, then into the other, at the same gain.
      </p>
      {lines.length < 2 || !front || !back ? null : (
        <div className="grid grid-cols-2 gap-2">
          {(['front', 'back'] as const).map((side) => (
            <Select
              key={side}
              label={side === 'front' ? 'Meant as front' : 'The other side'}
              value={side === 'front' ? front : back}
              options={lines.map((r) => ({ key: r.id, name: nameOf(r) }))}
              onChange={(reading) => setChosen({ ...chosen, [side]: reading })}
            />
          ))}
        </div>
      )}
      {front && back && front !== back ? (
        <Outcome front={front} back={back} pattern={active.microphone.pattern} />
      ) : null}
      <Button small onClick={() => take('spoken')}>
        {lines.length === 0 ? 'Speak into the front' : lines.length === 1 ? 'Now into the other side' : 'Speak again'}
      </Button>
    </div>
  )
}

function Outcome({ front, back, pattern }: { front: string; back: string; pattern: string }) {
  const { data, error } = $api.useQuery('get', '/api/readings/{reading_id}/sides/{other_id}', {
    params: { ...ofBoth(front, back).params, query: { pattern } },
  })
  if (error) return <Notice tone="care" title={inWords(error).title} body={inWords(error).cure} />
  if (!data) return <p role="status">Comparing both sides</p>
  return <Notice tone={data.outcome === 'proved' ? 'good' : 'care'} title={data.text} body={data.cure} />
}
