import type { Arrangement, Edit, RoomDoc } from '../api/client'

type Of<D extends Edit['do']> = Extract<Edit, { do: D }>
type Apply<D extends Edit['do']> = (to: Arrangement, edit: Of<D>, room: RoomDoc) => Arrangement

const putAt = <T>(list: readonly T[], at: number | null | undefined, thing: T): T[] => [
  ...list.slice(0, at ?? list.length),
  thing,
  ...list.slice(at ?? list.length),
]
const without = <T>(list: readonly T[], at: number): T[] => [...list.slice(0, at), ...list.slice(at + 1)]

/** What a laptop comes with where nothing was said. */
const CABLES = { mic_cable_m: 5, phones_cable_m: 3 }

/** What each edit does to a document's arrangement: the same as on the server, held to it by shared cases. */
const APPLY: { [D in Edit['do']]: Apply<D> } = {
  place: (to, { who, at, turn_deg, tilt_deg }) => {
    if (who === 'performer') return { ...to, performer: { ...to.performer, at, faces_deg: turn_deg } }
    if (who === 'microphone' || who === 'second-microphone') {
      const key = who === 'microphone' ? 'microphone' : 'second_microphone'
      return { ...to, [key]: { ...(to[key] ?? to.microphone), at, aims_deg: turn_deg, tilt_deg } }
    }
    const stands = { at, faces_deg: turn_deg }
    if (who === 'chair') return { ...to, listener: stands }
    if (who === 'laptop') return { ...to, laptop: { ...(to.laptop ?? CABLES), ...stands } }
    const number = Number(who.replace('monitor-', ''))
    return { ...to, monitors: [...to.monitors.slice(0, number - 1), stands, ...to.monitors.slice(number)] }
  },
  'take-out': (to, { who }) =>
    who === 'second-microphone'
      ? { ...to, second_microphone: null }
      : who === 'chair'
        ? { ...to, listener: null }
        : who === 'laptop'
          ? { ...to, laptop: null }
          : { ...to, monitors: to.monitors.slice(0, -1) },
  hang: (to, { treatment, number }) => ({ ...to, treatments: putAt(to.treatments, number, treatment) }),
  'take-down': (to, { number }) => ({ ...to, treatments: without(to.treatments, number) }),
  'set-state': (to, { what, state }, room) => {
    const others = to.opened.filter((opened) => opened.what !== what)
    return { ...to, opened: ownState(room, what) === state ? others : [...others, { what, state }] }
  },
  'move-furniture': (to, { number, at, turn_deg }, room) => {
    const others = to.moved.filter((moved) => moved.number !== number)
    const own = room.furnishings[number]
    const isHome = own && own.at[0] === at[0] && own.at[1] === at[1] && own.turn_deg === turn_deg
    return { ...to, moved: isHome ? others : [...others, { number, at, turn_deg }] }
  },
  'put-screen': (to, { screen, number }) => ({ ...to, screens: putAt(to.screens, number, screen) }),
  'take-screen': (to, { number }) => ({ ...to, screens: without(to.screens, number) }),
  'set-hour': (to, { hour }) => ({ ...to, hour: hour ?? null }),
  'set-weekday': (to, { weekday }) => ({ ...to, weekday: weekday ?? null }),
  'seal-way': (to, { way, means }) => {
    const rest = to.sealed.filter((seal) => seal.way !== way)
    return { ...to, sealed: means ? [...rest, { way, means }] : rest }
  },
  switch: (to, { noise, on_again, number }) => {
    const rest = to.silenced.filter((name) => name !== noise)
    return { ...to, silenced: on_again ? rest : putAt(rest, number, noise) }
  },
  'set-gain': (to, { gain_db }) => ({ ...to, gain_db }),
  'choose-pattern': (to, { who, pattern }) => {
    const key = who === 'microphone' ? 'microphone' : 'second_microphone'
    const now = to[key]
    return now ? { ...to, [key]: { ...now, pattern } } : to
  },
  'choose-source': (to, { source }) => ({ ...to, performer: { ...to.performer, source, lowest_hz: null } }),
}

/** The state that the room itself has something in, whatever an arrangement makes of it. */
export function ownState(room: RoomDoc, what: string): string | null {
  const [kind, number] = what.split('.')
  const at = Number(number)
  if (kind === 'furnishings') return room.furnishings[at]?.open ? 'open' : 'shut'
  if (kind === 'openings') return room.openings[at]?.state ?? null
  return room.covers[at]?.drawn === false ? 'undrawn' : 'drawn'
}

export const applied = (to: Arrangement, edits: readonly Edit[], room: RoomDoc): Arrangement =>
  edits.reduce((now, edit) => (APPLY[edit.do] as Apply<Edit['do']>)(now, edit as never, room), to)

/** The sentence for the undo button, from the catalogue's words for edits. */
export function wordsOf(edits: readonly Edit[], words: Record<string, string>): string {
  const [first, second] = edits
  if (first?.do === 'take-down' && second?.do === 'hang') return `move ${whatOf(second)}`
  return first ? sentence(first, words) : ''
}

function sentence(edit: Edit, words: Record<string, string>): string {
  const parts: Record<string, string> = {
    who: whoOf(edit),
    what: whatOf(edit),
    state: stateOf(edit),
  }
  return (words[edit.do] ?? edit.do).replace(/\{(\w+)\}/g, (_, key: string) => parts[key] ?? '')
}

const whoOf = (edit: Edit) =>
  edit.do === 'place' || edit.do === 'take-out' || edit.do === 'choose-pattern' ? edit.who.replace('-', ' ') : ''
const stateOf = (edit: Edit) =>
  edit.do === 'set-state' ? edit.state : edit.do === 'switch' ? (edit.on_again ? 'on' : 'off') : ''

function whatOf(edit: Edit): string {
  switch (edit.do) {
    case 'hang':
      return (edit.treatment.label ?? edit.treatment.kind).toLowerCase()
    case 'switch':
      return edit.noise
    case 'set-state':
      return { furnishings: 'furniture', openings: 'opening', covers: 'cloth' }[edit.what.split('.')[0]!] ?? ''
    case 'move-furniture':
      return 'furniture'
    default:
      return 'it'
  }
}
