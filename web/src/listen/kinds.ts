/** What can be read, in a musician's words: what each tells, how it is done, how long it takes. */
export type Kind = 'sweep' | 'clap' | 'glide' | 'tone' | 'spoken' | 'pops' | 'loudest' | 'take' | 'ir' | 'curve'
export type Way = 'browser' | 'import' | 'rig'

export type KindInfo = {
  key: Kind
  name: string
  /** What the reading tells, after its name. */
  tells: string
  /** Length of the recording: enough for the sound, its decay and a late start. */
  seconds: number
  /** What to do while it records, legible from across the room. */
  cue: string
  steps: readonly [string, string, string]
  /** Where the live peak should lie. [dBFS] */
  good: readonly [number, number]
  caution?: string
}

const SOUND = [-30, -4] as const

export const KINDS: readonly KindInfo[] = [
  {
    key: 'sweep',
    name: 'Sweep',
    tells: 'how long the room hangs on, what comes back, which notes ring',
    seconds: 11,
    cue: 'Keep still',
    good: [-24, -4],
    steps: [
      'Put a loudspeaker where your mouth is on the drawing, facing as you would.',
      'Put the microphone on its mark. Step back and keep still.',
      'Play the sweep clear but comfortable, from start to end.',
    ],
    caution: 'Take headphones off. Start low and turn up; never play it at an ear.',
  },
  {
    key: 'clap',
    name: 'Clap',
    tells: 'the same without a loudspeaker, and flutter',
    seconds: 4,
    cue: 'One clap',
    good: SOUND,
    steps: [
      'Stand on your mark, the microphone on its own.',
      'One sharp clap, two wooden blocks or a burst balloon.',
      'Then two seconds of nothing.',
    ],
    caution: 'Hold a balloon or blocks at arm’s length, away from faces and ears.',
  },
  {
    key: 'glide',
    name: 'Hum glide',
    tells: 'the notes on which the room swells',
    seconds: 18,
    cue: 'Up… and down',
    good: SOUND,
    steps: [
      'Stand on your mark and hum softly, mouth closed.',
      'Glide from your lowest note up an octave or more in eight seconds, and down again.',
      'Keep your loudness steady: what swells is the room.',
    ],
  },
  {
    key: 'tone',
    name: 'Silence',
    tells: 'what is there when nobody plays',
    seconds: 12,
    cue: 'Nothing',
    good: [-80, -24],
    steps: [
      'Microphone on its mark, gain as for a take.',
      'Leave everything on that is on when you record.',
      'Keep still and breathe quietly for twelve seconds.',
    ],
  },
  {
    key: 'spoken',
    name: 'Spoken line',
    tells: 'your level, the noise in the gaps; again after a change, to compare',
    seconds: 12,
    cue: 'Speak',
    good: SOUND,
    steps: [
      'Stand on your mark, gain as for a take.',
      'Speak any two sentences as you would to one listener; the same ones each time.',
      'Leave a breath of silence between them.',
    ],
  },
  {
    key: 'pops',
    name: 'Pop words',
    tells: 'whether breath thumps the microphone',
    seconds: 12,
    cue: 'Pa, pe, po',
    good: SOUND,
    steps: [
      'Stand on your mark, at the distance you sing from.',
      'Say: paper boats, puppets, bread and butter, people. As you would sing them.',
      'Pause a second between the words.',
    ],
  },
  {
    key: 'loudest',
    name: 'Loudest passage',
    tells: 'whether the gain leaves room',
    seconds: 12,
    cue: 'Loud',
    good: [-14, -4],
    steps: [
      'Stand on your mark with the instrument.',
      'Play or sing the loudest passage of the piece, as loud as it will get.',
      'Do it twice: the second is usually louder.',
    ],
    caution:
      'Closed headphones down before a loud passage; never monitor it through loudspeakers with this microphone open.',
  },
  {
    key: 'take',
    name: 'Test take',
    tells: 'level, noise and plain faults at once',
    seconds: 15,
    cue: 'Play',
    good: [-18, -4],
    steps: [
      'Stand on your mark with the instrument, gain as you would set it.',
      'Play or sing your quietest and your loudest phrase.',
      'Leave a breath of silence between phrases.',
    ],
  },
  {
    key: 'ir',
    name: 'Impulse response',
    tells: 'one measured elsewhere',
    seconds: 4,
    cue: '',
    good: SOUND,
    steps: [
      'Bring an impulse response made elsewhere, one bang with its decay.',
      'WAV, FLAC, AIFF or OGG, the direct sound first.',
      'It is read as it is: nothing is known of the loudspeaker behind it.',
    ],
  },
  {
    key: 'curve',
    name: 'Curve',
    tells: 'a response as a table, to lay beside others',
    seconds: 0,
    cue: '',
    good: SOUND,
    steps: [
      'Bring a text file with two columns: frequency in Hz, level in dB.',
      'Comma, semicolon, tab or blanks between them; a header is passed over.',
      'It is kept as it is and can be compared with the low end of a sweep.',
    ],
  },
]

export const KIND: Record<string, KindInfo> = Object.fromEntries(KINDS.map((k) => [k.key, k]))
export const kindName = (key: string) => KIND[key]?.name ?? key
export const WAY_WORDS: Record<string, string> = { rig: 'simulated', browser: 'recorded here', import: 'file' }
/** Kinds that only come as files. */
export const ONLY_FILES: readonly Kind[] = ['ir', 'curve']
export const RESPONSES: readonly string[] = ['sweep', 'ir', 'clap']
export const TAKES: readonly string[] = ['take', 'spoken', 'pops', 'loudest']
