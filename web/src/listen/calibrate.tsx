import { useMutation, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { roomChanged, cache } from '../api/cache'
import { $api, api, type ReadingSummary, unwrap } from '../api/client'
import { calibrateByCalibrator, roomQueries } from '../api/queries'
import { useRoom } from '../state/room'
import { Button } from '../ui/button'
import { Sheet } from '../ui/dialog'
import { NumberField } from '../ui/fields'
import { Failed, Notice } from '../ui/notice'
import { Segmented } from '../ui/segmented'
import { Select } from '../ui/select'

type Method = 'meter' | 'calibrator' | 'voice'
const METHODS: readonly { key: Method; name: string }[] = [
  { key: 'meter', name: 'A meter, ±2 dB' },
  { key: 'calibrator', name: 'A calibrator, ±0.6 dB' },
  { key: 'voice', name: 'Your voice, ±6 dB' },
]
const WORDS: Record<string, string> = { meter: 'by a meter', calibrator: 'by a calibrator', voice: 'by voice' }

/** Sets real decibels to one chain: this device, channel and gain. Kept, and used by every later silence through the same chain. */
export function CalibrateSheet({
  reading,
  onClose,
}: {
  reading: Pick<ReadingSummary, 'id' | 'settings'>
  onClose: () => void
}) {
  const { id } = useRoom()
  const [method, setMethod] = useState<Method>('meter')
  const [level, setLevel] = useState(35)
  const [tone, setTone] = useState(94)
  const [take, setTake] = useState<string | null>(null)
  const file = useRef<HTMLInputElement>(null)
  const { data: kept = [] } = $api.useQuery('get', '/api/calibrations')
  const { data: readings = [] } = useQuery(roomQueries.readings(id))
  const chain = {
    device: reading.settings.device ?? '',
    channel: reading.settings.channel ?? '1',
    gain: reading.settings.gain ?? '',
  }
  const known = Boolean(chain.device && chain.gain)
  const takes = readings.filter(
    (r) => r.form === 'take' && !r.simulated && r.settings.device === chain.device && r.settings.gain === chain.gain,
  )
  const settled = async () => {
    await cache.invalidateQueries({ queryKey: ['get', '/api/calibrations'] })
    await cache.invalidateQueries({ queryKey: ['get', '/api/readings/{reading_id}'] })
    await roomChanged(id)
  }
  const calibrate = useMutation({
    mutationFn: async (sound: File | null) =>
      sound
        ? calibrateByCalibrator(sound, { ...chain, levelDb: tone })
        : unwrap(
            await api.POST('/api/calibrations', {
              body: {
                reading_id: method === 'voice' ? (take ?? takes[0]?.id ?? '') : reading.id,
                method,
                level_db: method === 'meter' ? level : null,
              },
            }),
          ),
    onSuccess: settled,
  })
  const remove = $api.useMutation('delete', '/api/calibrations/{calibration_id}', { onSuccess: settled })
  return (
    <Sheet open onClose={onClose} title="How loud is that really?" wide>
      <div className="space-y-3" data-testid="calibrate">
        <p className="text-ink-2">
          A recorder knows its own scale only. One comparison gives it decibels, for this chain:{' '}
          <strong className="text-ink">{chain.device || 'unknown device'}</strong>, gain{' '}
          <strong className="text-ink">{chain.gain || 'not said'}</strong>. Turn the gain, and it needs another.
        </p>
        {known ? (
          <>
            <Segmented small label="By what" value={method} options={METHODS} onChange={setMethod} />
            {method === 'meter' ? (
              <div className="flex flex-wrap items-end gap-3">
                <div className="w-56">
                  <NumberField
                    label="The meter showed, A-weighted"
                    unit="dB(A)"
                    value={level}
                    low={15}
                    high={110}
                    digits={1}
                    onChange={setLevel}
                  />
                </div>
                <Button look="main" disabled={calibrate.isPending} onClick={() => calibrate.mutate(null)}>
                  Calibrate by it
                </Button>
                <p className="w-full text-note text-ink-2">
                  Held beside the microphone while this silence was recorded. A phone’s meter may be off by more than
                  the ±2 dB counted here.
                </p>
              </div>
            ) : null}
            {method === 'calibrator' ? (
              <div className="flex flex-wrap items-end gap-3">
                <div className="w-56">
                  <NumberField
                    label="The calibrator gives"
                    unit="dB"
                    value={tone}
                    low={60}
                    high={130}
                    digits={1}
                    onChange={setTone}
                  />
                </div>
                <Button look="main" disabled={calibrate.isPending} onClick={() => file.current?.click()}>
                  Bring its recording
                </Button>
                <input
                  ref={file}
                  type="file"
                  accept="audio/*,.wav,.flac"
                  className="sr-only"
                  tabIndex={-1}
                  aria-label="Recording of the calibrator"
                  onChange={(e) => {
                    const sound = e.target.files?.[0]
                    if (sound) calibrate.mutate(sound)
                    e.target.value = ''
                  }}
                />
                <p className="w-full text-note text-ink-2">
                  Ten seconds of its tone through the same chain at the same gain.
                </p>
              </div>
            ) : null}
            {method === 'voice' ? (
              takes.length ? (
                <div className="flex flex-wrap items-end gap-3">
                  <div className="w-64">
                    <Select
                      label="A take or spoken line"
                      value={take ?? takes[0]!.id}
                      options={takes.map((r) => ({ key: r.id, name: `${new Date(r.taken_at).toLocaleString()}` }))}
                      onChange={setTake}
                    />
                  </div>
                  <Button look="main" disabled={calibrate.isPending} onClick={() => calibrate.mutate(null)}>
                    Calibrate roughly
                  </Button>
                  <p className="w-full text-note text-ink-2">
                    Takes the usual level of your voice or instrument at the drawn distance. One person’s usual is
                    another’s loud: it is rough.
                  </p>
                </div>
              ) : (
                <p className="text-note">Record a spoken line through this chain first.</p>
              )
            ) : null}
          </>
        ) : (
          <Notice
            tone="care"
            title="It is not known how the gain was set."
            body="Say it when you record (“how the gain is set”), or when you bring the file; a calibration holds for one setting only."
          />
        )}
        <Failed error={calibrate.error} />
        {calibrate.isSuccess ? (
          <Notice
            tone="good"
            title={`Full scale is ${calibrate.data.full_scale_db.toFixed(1)} dB ± ${calibrate.data.plus_minus_db.toFixed(1)} dB.`}
            body={`${calibrate.data.reread ?? 0} ${calibrate.data.reread === 1 ? 'silence was' : 'silences were'} read anew.`}
          />
        ) : null}
        {kept.length ? (
          <section>
            <h3 className="font-semibold">Kept</h3>
            <ul>
              {kept.map((c) => (
                <li key={c.id} className="flex items-baseline gap-2 border-b border-line py-1 last:border-0">
                  <span className="min-w-0 flex-1">
                    {c.device}, gain {c.gain}
                    <span className="text-small text-ink-2">
                      {' '}
                      · full scale {c.full_scale_db.toFixed(1)} dB ±{c.plus_minus_db.toFixed(1)}, {WORDS[c.method]},{' '}
                      {new Date(c.taken_at).toLocaleDateString()}
                    </span>
                  </span>
                  <Button
                    small
                    look="quiet"
                    onClick={() => remove.mutate({ params: { path: { calibration_id: c.id } } })}
                    aria-label={`Put the calibration of ${c.device} aside`}
                  >
                    Put aside
                  </Button>
                </li>
              ))}
            </ul>
          </section>
        ) : null}
      </div>
    </Sheet>
  )
}
