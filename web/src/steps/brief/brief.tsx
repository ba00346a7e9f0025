import { useEffect, useState } from 'react'
import type { RoomDoc } from '../../api/client'
import { readNote } from '../../api/queries'
import { wantedWords } from '../../marks/marks-column'
import { Head } from '../../rooms/head'
import { useCatalogue } from '../../state/catalogue'
import { usePredicted } from '../../state/forecast'
import { CURRENCIES } from '../../state/currency'
import { useRoom } from '../../state/room'
import { Blank, BlankFigure } from '../../ui/blank'
import { clock } from '../../ui/clock'
import { Caution } from '../../ui/notice'
import { Owned } from './owned'

type Brief = RoomDoc['brief']
const PURPOSES = {
  'dry-voice': 'dry and close',
  spoken: 'dry, to be spoken',
  'some-room': 'with some room',
  lively: 'lively',
}
const ROLES = [
  { key: 'lead', name: 'The lead', hint: 'in front of everything else' },
  { key: 'backing', name: 'Backing', hint: 'behind the lead' },
  { key: 'soloist', name: 'A soloist', hint: 'alone, with the room around it' },
  { key: 'section', name: 'One of a section', hint: 'among others' },
] as const
const ROLE_WORDS = { lead: 'the lead', backing: 'backing', soloist: 'a soloist', section: 'one of a section' }
type MicType = 'condenser' | 'dynamic' | 'ribbon'
const MICS = [
  { key: 'condenser', name: 'A condenser', hint: 'needs phantom power; hears far' },
  { key: 'dynamic', name: 'A dynamic', hint: 'wants you near' },
  { key: 'ribbon', name: 'A ribbon', hint: 'soft on top, delicate' },
  { key: 'unsaid', name: 'Some microphone' },
]
const MIC_WORDS = { condenser: 'a condenser', dynamic: 'a dynamic', ribbon: 'a ribbon', unsaid: 'some microphone' }
const HEIGHTS = { standing: 1.5, seated: 1.2 }

/** An hour as people type it: 19:30, 7.30 pm, 8pm, 20h, noon. */
export function hourOf(text: string): number | null {
  const said = text.trim().toLowerCase()
  if (said === 'noon') return 12
  if (said === 'midnight') return 0
  const found = /^(\d{1,2})(?:[:.h]\s*(\d{2}))?\s*(?:h|o'?clock|uhr)?\s*(am|pm|a\.m\.|p\.m\.)?$/.exec(said)
  if (!found) return null
  const [h, m, half] = [Number(found[1]), Number(found[2] ?? 0), found[3]?.[0]]
  if (m >= 60 || (half ? h < 1 || h > 12 : h > 24)) return null
  const hour = half ? (h % 12) + (half === 'p' ? 12 : 0) : h
  return hour + m / 60 <= 24 ? hour + m / 60 : null
}

/** "a sung voice", "an even source", but "reeds", "brass". */
const withArticle = (name: string) =>
  /s$/.test(name) ? name.toLowerCase() : `${/^[AEIOU]/.test(name) ? 'an' : 'a'} ${name.toLowerCase()}`

/** The job as sentences with blanks: what is filled in sets what is wanted, and which moves are offered. */
export function BriefStage() {
  const { document, active, change, edit } = useRoom()
  const { active: predicted } = usePredicted()
  const { sources, purposes, microphone_cautions } = useCatalogue()
  const care = microphone_cautions[active.microphone.type ?? '']
  const { brief } = document
  const set = (label: string, part: Partial<Brief>) =>
    change(label, (now) => ({ ...now, brief: { ...now.brief, ...part } }))
  /** Mouth and capsule go up or down together. */
  const sit = (posture: Brief['posture']) => {
    if (posture === brief.posture) return
    const by = HEIGHTS[posture] - HEIGHTS[brief.posture]
    const { performer, microphone } = active
    const lift = ([x, y, z]: readonly number[]) => [x!, y!, Math.max(z! + by, 0.3)] as [number, number, number]
    set('posture', { posture })
    edit(
      { do: 'place', who: 'performer', at: lift(performer.at), turn_deg: performer.faces_deg, tilt_deg: 0 },
      {
        do: 'place',
        who: 'microphone',
        at: lift(microphone.at),
        turn_deg: microphone.aims_deg,
        tilt_deg: microphone.tilt_deg,
      },
    )
  }
  const setMic = (type: string) =>
    change('kind of microphone', (now) => ({
      ...now,
      arrangements: now.arrangements.map((a) => ({
        ...a,
        microphone: { ...a.microphone, type: type === 'unsaid' ? null : (type as MicType) },
      })),
    }))
  const bounce = predicted?.marks.bounce
  return (
    <>
      <Head
        question="What are you recording?"
        answer={
          bounce
            ? `So your sound should lie ${wantedWords('bounce', bounce.wanted, bounce.unit)} over the room; it lies ${bounce.value?.toFixed(1).replace('-', '−') ?? '–'} dB over it now.`
            : ''
        }
      />
      <div
        className="mt-3 max-w-[46rem] space-y-4 font-display text-large leading-[1.75] max-lg:text-title"
        data-testid="brief"
      >
        <p>
          I record{' '}
          <Blank
            label="Who or what sounds"
            value={active.performer.source}
            options={sources}
            words={Object.fromEntries(sources.map((s) => [s.key, withArticle(s.name)]))}
            onChange={(source) => edit({ do: 'choose-source', source })}
          />{' '}
          <Blank
            label="Standing or seated"
            value={brief.posture}
            options={[
              { key: 'standing', name: 'Standing' },
              { key: 'seated', name: 'Seated' },
            ]}
            onChange={sit}
          />
          , down to <BlankNote />, as{' '}
          <Blank
            label="Its part"
            value={brief.role}
            options={ROLES}
            words={ROLE_WORDS}
            onChange={(role) => set('its part', { role })}
          />
          ,{' '}
          <Blank
            label="Alone or in layers"
            value={brief.layers}
            options={[
              { key: 'alone', name: 'Alone, as one take', hint: 'what the room adds is heard once' },
              { key: 'layered', name: 'In layers', hint: 'what the room adds, adds up' },
            ]}
            words={{ alone: 'as one take', layered: 'in layers' }}
            onChange={(layers) => set('layers', { layers })}
          />
          , wanting it{' '}
          <Blank
            label="How it should sound"
            value={brief.purpose}
            options={purposes}
            words={PURPOSES}
            onChange={(purpose) => set('purpose', { purpose })}
          />
          .
        </p>
        <p>
          It goes into{' '}
          <Blank
            label="Kind of microphone"
            value={active.microphone.type ?? 'unsaid'}
            options={MICS}
            words={MIC_WORDS}
            onChange={(type) => setMic(type)}
          />
          {care ? (
            <span className="block font-text text-note leading-snug">
              <Caution text={care} />
            </span>
          ) : (
            '.'
          )}
        </p>
        <p>
          Mostly I record at{' '}
          <BlankFigure
            label="You record at"
            text={clock(active.hour ?? 11)}
            read={(text) => {
              const hour = hourOf(text)
              if (hour !== null) edit({ do: 'set-hour', hour })
              return hour !== null
            }}
            refused="A time of the day, such as 19:30 or 7.30 pm."
            wide={6}
          />
          .
        </p>
        <p>
          {brief.may_cut ? 'Its longest section takes' : 'The piece takes'}{' '}
          <BlankFigure
            label="Length of the piece in minutes"
            text={String(brief.piece_min ?? 4)}
            read={(text) => {
              const minutes = Number(text.replace(',', '.'))
              const fine = text.trim() !== '' && minutes > 0 && minutes <= 240
              if (fine) set('length of the piece', { piece_min: minutes })
              return fine
            }}
            refused="Minutes, up to 240."
          />{' '}
          minutes; it{' '}
          <Blank
            label="May it be cut?"
            value={brief.may_cut ? 'yes' : 'no'}
            options={[
              { key: 'yes', name: 'May be cut', hint: 'its longest section has to be quiet' },
              { key: 'no', name: 'May not be cut', hint: 'all of it has to be quiet' },
            ]}
            words={{ yes: 'may be cut together', no: 'may not be cut' }}
            onChange={(may) => set('cutting', { may_cut: may === 'yes' })}
          />
          .
        </p>
        <p>
          I may spend{' '}
          <Blank
            label="Money"
            value={brief.currency}
            options={CURRENCIES.map((key) => ({ key, name: key }))}
            onChange={(currency) => set('currency', { currency })}
          />
          <BlankFigure
            label="Budget"
            text={String(brief.budget)}
            read={(text) => {
              const budget = Number(text.replace(',', '.'))
              const fine = text.trim() !== '' && budget >= 0 && budget <= 100000
              if (fine) set('budget', { budget })
              return fine
            }}
            refused="A sum from 0 to 100000."
          />{' '}
          and{' '}
          <Blank
            label="Drilling"
            value={brief.may_drill ? 'yes' : 'no'}
            options={[
              { key: 'yes', name: 'May', hint: 'after a look for cables and pipes' },
              { key: 'no', name: 'May not' },
            ]}
            onChange={(may) => set('drilling', { may_drill: may === 'yes' })}
          />{' '}
          drill into walls and ceiling.
        </p>
      </div>
      <Owned set={set} />
    </>
  )
}

/** The lowest note that is sung or played: which notes of the room count. */
function BlankNote() {
  const { active, change } = useRoom()
  const { sources } = useCatalogue()
  const { source, lowest_hz } = active.performer
  const usual = sources.find((s) => s.key === source)?.lowest ?? ''
  const [name, setName] = useState<string | null>(null)
  useEffect(() => {
    if (typeof lowest_hz !== 'number') return setName(null)
    void readNote(`${lowest_hz} Hz`).then((note) => setName(note.name))
  }, [lowest_hz])
  return (
    <BlankFigure
      label="Lowest note"
      text={name ?? usual}
      read={async (text) => {
        try {
          const { f_hz } = await readNote(text)
          change('lowest note', (now) => ({
            ...now,
            arrangements: now.arrangements.map((a) => ({ ...a, performer: { ...a.performer, lowest_hz: f_hz } })),
          }))
          return true
        } catch {
          return false
        }
      }}
      refused="A note such as G3, F#2 or Bb1."
    />
  )
}

/** What follows from the answers. */
export function BriefSide() {
  const [open, setOpen] = useState(false)
  return (
    <div className="text-small text-ink-2">
      <p>
        These answers set what is wanted of each mark and which next moves are offered: nothing you cannot afford,
        nothing that needs holes you may not make.{' '}
        <button
          className="font-semibold text-ink underline decoration-line-strong underline-offset-2"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
        >
          What each is for
        </button>
      </p>
      {open ? (
        <ul className="mt-1.5 list-disc space-y-1 pl-4">
          <li>Who sounds and how it should sound: what is wanted on each string.</li>
          <li>The hour: which noises run then.</li>
          <li>Standing or seated: how high mouth and capsule are.</li>
          <li>Money, drilling and what you own: which moves are offered, and what they cost.</li>
        </ul>
      ) : null}
    </div>
  )
}
