import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { api, type RoomDoc, unwrap } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { useRoom } from '../../state/room'
import { sheetsOf } from '../../state/sheets'
import { TRYING } from '../../state/trying'
import { Button } from '../../ui/button'
import { Caution, Failed, Notice } from '../../ui/notice'
import { Segmented } from '../../ui/segmented'
import { Select } from '../../ui/select'
import { useSwitched } from './use-switched'

const OUTDOORS = 'outdoors'
const MADE = 'made'
const MOST = 4

/** A line in the room as it is, with what is tried or kept, and outdoors: alike in loudness, switched without a gap. */
export function Hear() {
  const { id, document, standing, trying } = useRoom()
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const takes = readings.filter((r) => r.form === 'take' && r.verdict.usable)
  const [line, setLine] = useState(MADE)
  const versions = [
    { key: standing.id, name: 'As it is' },
    ...(trying ? [{ key: TRYING, name: 'What is tried' }] : []),
    ...sheetsOf(document).map((sheet) => ({ key: sheet.id, name: sheet.name || sheet.id })),
  ].slice(0, MOST - 1)
  const all = [...versions, { key: OUTDOORS, name: 'Outdoors' }]
  const keys = all.map((v) => v.key)
  const [on, setOn] = useState(standing.id)
  const chosen = keys.includes(on) ? on : standing.id
  const asked = JSON.stringify([document, keys, line])
  const [sound, setSound] = useState<{ asked: string; wav: ArrayBuffer; twice: boolean } | null>(null)
  const [trouble, setTrouble] = useState<unknown>(null)
  const [working, setWorking] = useState(false)
  const player = useSwitched(keys.indexOf(chosen))
  const { stop } = player
  useEffect(() => stop, [asked, stop])
  const begin = async () => {
    setTrouble(null)
    if (sound?.asked === asked) return player.play(sound.wav)
    setWorking(true)
    try {
      const found = await heard(document, keys, line === MADE ? null : line)
      setSound({ asked, ...found })
      await player.play(found.wav)
    } catch (error) {
      setTrouble(error)
    } finally {
      setWorking(false)
    }
  }
  return (
    <div data-testid="hear" className="space-y-2">
      <h2 className="text-head leading-tight">How would it sound?</h2>
      <div className="flex flex-wrap items-end gap-3">
        <Select
          label="The line"
          value={line}
          options={[
            { key: MADE, name: 'A dry line of ours' },
            ...takes.map((r) => ({ key: r.id, name: r.note || `Your ${r.kind}, ${r.file_name}` })),
          ]}
          onChange={setLine}
        />
        {player.playing ? (
          <Button small look="main" onClick={player.stop}>
            Stop
          </Button>
        ) : (
          <Button small look="main" disabled={working} onClick={() => void begin()}>
            {working ? 'Playing it into the room' : 'Play'}
          </Button>
        )}
        <Segmented small label="Where it is heard" value={chosen} options={all} onChange={setOn} />
      </div>
      {sound?.twice && sound.asked === asked ? (
        <Notice
          tone="care"
          title="This take has its own room in it already."
          body="You hear the room twice: take a drier line, or ours."
        />
      ) : null}
      <Failed error={trouble} />
      <p className="text-small text-ink-2">
        All are alike in loudness; what differs is the room. Switch while it plays. It is made of the forecast, with the
        microphone where it stands; it does not tell how the room feels to you while you sing.
      </p>
      <Caution text="Headphones: start low. What is heard through the room's own monitors has the room in it twice." />
    </div>
  )
}

/** A line in several versions, one channel each; whether it brings a room of its own. */
async function heard(document: RoomDoc, versions: readonly string[], readingId: string | null) {
  const answer = await api.POST('/api/hear.wav', {
    body: { document, versions: [...versions], reading_id: readingId },
    parseAs: 'arrayBuffer',
  })
  return { wav: unwrap(answer), twice: answer.response.headers.get('x-room-twice') === 'yes' }
}
