import { useRef, useState } from 'react'
import { inWords, type KindInfo, type Reading } from '../api/client'
import { uploadReading } from '../api/queries'
import { useCatalogue } from '../state/catalogue'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Check, TextField } from '../ui/fields'
import { Notice } from '../ui/notice'
import { SweepFile } from './stage'

type Brought =
  | { name: string; state: 'reading' }
  | { name: string; state: 'read'; reading: Reading }
  | { name: string; state: 'refused'; title: string; cure: string }
const SIGNS = { good: '✓', usable: '!', 'not usable': '✕' }

/** One or many recordings dropped or chosen; each is read and told on its own line. */
export function BringFiles({
  kind,
  onTaken,
}: {
  kind: KindInfo
  onTaken: (reading: Reading, last: boolean) => Promise<void>
}) {
  const { id, active, flush } = useRoom()
  const { sounds } = useCatalogue()
  const [over, setOver] = useState(false)
  const [brought, setBrought] = useState<Brought[]>([])
  const [device, setDevice] = useState('')
  const [gain, setGain] = useState('')
  const picker = useRef<HTMLInputElement>(null)
  const isCurve = kind.form === 'curve'
  const isTake = kind.form === 'take'
  const [here, setHere] = useState(true)
  const folder = useRef<HTMLInputElement>(null)
  const take = async (files: readonly File[]) => {
    if (files.length === 0) return
    const from = brought.length
    setBrought((now) => [...now, ...files.map((f) => ({ name: f.name, state: 'reading' as const }))])
    for (const [i, file] of files.entries()) {
      const put = (line: Brought) => setBrought((now) => now.map((b, k) => (k === from + i ? line : b)))
      try {
        await flush()
        const reading = await uploadReading(id, file, {
          kind: kind.key,
          way: 'import',
          arrangementId: active.id,
          fileName: file.name,
          settings: { device: device.trim() || 'imported file', gain: gain.trim() },
          key: crypto.randomUUID(),
          counts: here || !isTake,
        })
        put({ name: file.name, state: 'read', reading })
        await onTaken(reading, files.length === 1)
      } catch (error) {
        put({ name: file.name, state: 'refused', ...inWords(error) })
      }
    }
  }
  return (
    <div className="space-y-3">
      {kind.by_loudspeaker && kind.ways.includes('browser') ? (
        <p>
          <SweepFile />, play it in the room, bring back the recording.
        </p>
      ) : null}
      <button
        type="button"
        onClick={() => picker.current?.click()}
        onDragOver={(e) => {
          e.preventDefault()
          setOver(true)
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault()
          setOver(false)
          void take([...e.dataTransfer.files])
        }}
        className={`w-full rounded-2xl border-2 border-dashed px-4 py-9 ${over ? 'border-felt bg-felt-soft' : 'border-line-strong bg-card'}`}
      >
        Drop {isCurve ? 'curves' : 'recordings'} here, or <span className="font-semibold underline">choose them</span>
        <br />
        <span className="text-note text-ink-2">
          {isCurve
            ? 'CSV or text: frequency in Hz, level in dB'
            : 'one or many, or a folder · WAV, FLAC, AIFF, OGG, MP3, M4A, Opus · a sweep up to a minute, a silence up to ten'}
        </span>
      </button>
      <input
        ref={picker}
        type="file"
        multiple
        accept={isCurve ? '.csv,.txt,.tsv,text/*' : ['audio/*', ...sounds].join()}
        className="sr-only"
        tabIndex={-1}
        aria-label={`Recording of the ${kind.key}`}
        onChange={(e) => {
          void take([...(e.target.files ?? [])])
          e.target.value = ''
        }}
      />
      {isCurve ? null : (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
          <Button small onClick={() => folder.current?.click()}>
            A whole folder
          </Button>
          <input
            ref={folder}
            type="file"
            multiple
            {...{ webkitdirectory: '' }}
            className="sr-only"
            tabIndex={-1}
            aria-label={`Folder of ${kind.key}`}
            onChange={(e) => {
              void take(
                [...(e.target.files ?? [])].filter((file) =>
                  sounds.some((end) => file.name.toLowerCase().endsWith(end)),
                ),
              )
              e.target.value = ''
            }}
          />
          {isTake ? (
            <Check label="Made in this room, at this place, with this gain" checked={here} onChange={setHere} />
          ) : null}
        </div>
      )}
      {kind.form === 'tone' ? (
        <div className="grid grid-cols-2 gap-2">
          <TextField label="Recorded with" value={device} onChange={setDevice} hint="for its calibration" />
          <TextField label="Gain set to" value={gain} onChange={setGain} />
        </div>
      ) : null}
      <ul className="space-y-1.5" aria-live="polite">
        {brought.map((line, i) =>
          line.state === 'refused' ? (
            <li key={i}>
              <Notice tone="stop" title={line.title} body={line.cure} />
            </li>
          ) : (
            <li key={i} className="flex items-baseline gap-2 border-b border-line pb-1.5">
              <span aria-hidden className="w-4 font-bold">
                {line.state === 'read' ? SIGNS[line.reading.verdict.word] : '–'}
              </span>
              <span className="min-w-0 flex-1 truncate">{line.name}</span>
              <span className="text-right text-note text-ink-2">
                {line.state === 'reading'
                  ? 'reading it'
                  : [line.reading.verdict.word, line.reading.headline.said].filter(Boolean).join(' · ')}
              </span>
            </li>
          ),
        )}
      </ul>
    </div>
  )
}
