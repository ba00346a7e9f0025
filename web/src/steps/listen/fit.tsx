import { useMutation } from '@tanstack/react-query'
import { api, type MarkKey, type Schemas, unwrap } from '../../api/client'
import { ofRoom } from '../../api/queries'
import { useWork } from '../../api/waiting'
import { DIGITS, figure, ORDER } from '../../marks/scales'
import { BeadString } from '../../marks/string'
import { XYPlot, type XY } from '../../plots/xy-plot'
import { useRoom } from '../../state/room'
import { useLeaving } from '../../ui/use-leaving'
import { Button } from '../../ui/button'
import { Sheet } from '../../ui/dialog'
import { Failed, Notice } from '../../ui/notice'

type Fit = Schemas['FitAnswer']

/** Holds the description to what was read, and offers to keep what that teaches. */
export function FitSection({ readings }: { readings: number }) {
  const { id, document, change, flush } = useRoom()
  const leaving = useLeaving()
  const work = useWork(`/api/rooms/${id}/fit`)
  const ask = useMutation({
    mutationFn: async () => {
      await flush()
      return unwrap(await api.POST('/api/rooms/{room_id}/fit', { ...ofRoom(id), signal: leaving.current.signal }))
    },
  })
  const keep = (fit: Fit) => {
    change('fit to readings', (now) => ({ ...now, fit: fit.fit }))
    ask.reset()
  }
  return (
    <section className="border-t border-line pt-3" data-testid="fit">
      <h3 className="mb-1 font-semibold">Does the room match its description?</h3>
      <p className="text-note text-ink-2">
        {document.fit
          ? 'Predictions are fitted to your readings: what the surfaces swallow was adjusted, and the ± is narrower.'
          : 'Catalogue figures are averages. A fit adjusts what the surfaces swallow until decay and ringing notes agree with your readings.'}
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        <Button
          small
          look={document.fit ? 'plain' : 'main'}
          disabled={readings === 0 || ask.isPending}
          onClick={() => ask.mutate()}
        >
          {ask.isPending
            ? `Fitting${work ? ` ${Math.round(work.progress * 100)} %` : ''}`
            : document.fit
              ? 'Fit again'
              : 'Fit it to the readings'}
        </Button>
        {document.fit ? (
          <Button small look="quiet" onClick={() => change('remove the fit', (now) => ({ ...now, fit: null }))}>
            Back to the catalogue
          </Button>
        ) : null}
      </div>
      {readings === 0 ? <p className="mt-1 text-small text-ink-2">It needs a sweep or a clap first.</p> : null}
      <Failed error={ask.error} />
      {ask.data ? <FitSheet fit={ask.data} onKeep={() => keep(ask.data)} onClose={() => ask.reset()} /> : null}
    </section>
  )
}

function FitSheet({ fit, onKeep, onClose }: { fit: Fit; onKeep: () => void; onClose: () => void }) {
  const points = (key: 'measured_s' | 'before_s' | 'after_s'): XY[] =>
    fit.octaves.map((o) => [o.centre_hz, o[key] ?? null])
  const values = fit.octaves.flatMap((o) => [o.measured_s ?? 0, o.before_s, o.after_s])
  const top = Math.ceil(Math.max(...values) * 5) / 5
  return (
    <Sheet open onClose={onClose} title="The room beside its description" wide>
      <div className="space-y-3" data-testid="fit-sheet">
        <XYPlot
          question="Does the fitted room fade like the real one?"
          answer={`${fit.readings.length === 1 ? 'One reading' : `${fit.readings.length} readings`}${fit.simulated ? ', simulated' : ''}. ${fit.moved.length ? 'The fit moves the curve onto the dots.' : 'The description was right within its uncertainty.'}`}
          x={{
            name: 'pitch',
            unit: 'Hz',
            domain: [56, 9000],
            ticks: [63, 125, 250, 500, 1000, 2000, 4000, 8000],
            log: true,
            text: (f) => (f >= 1000 ? `${f / 1000}k` : String(f)),
          }}
          y={{
            name: 'time to fade',
            unit: 's',
            domain: [0, top],
            ticks: [0, 0.25, 0.5, 0.75, 1].map((t) => Math.round(t * top * 100) / 100),
          }}
          series={[
            {
              name: 'as described',
              unit: 's',
              points: points('before_s'),
              colour: 'var(--line-strong)',
              kind: 'line',
              dash: '2 4',
            },
            {
              name: 'fitted',
              unit: 's',
              points: points('after_s'),
              colour: 'var(--change)',
              kind: 'line',
              dash: '7 4',
            },
            { name: 'measured', unit: 's', points: points('measured_s'), colour: 'var(--ink)', kind: 'dots' },
          ]}
          fileName="fit"
        />
        {fit.left_out.length ? (
          <p className="text-note text-ink-2">
            Readings from before {fit.left_out.join(', ')} are left out: they speak of another room.
          </p>
        ) : null}
        <div className="grid gap-4 sm:grid-cols-2">
          <div>
            <h3 className="font-semibold">What moved</h3>
            {fit.moved.length === 0 ? <p className="text-note text-ink-2">Nothing by more than a tenth.</p> : null}
            <ul className="list-disc pl-4 text-note marker:text-line-strong">
              {fit.moved.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
            {fit.notes.length ? <NoteTable notes={fit.notes} /> : null}
          </div>
          <div>
            <h3 className="font-semibold">What it does to the marks</h3>
            {ORDER.filter((m) => m !== 'touch').map((mark) => (
              <Change key={mark} mark={mark} fit={fit} />
            ))}
          </div>
        </div>
        {fit.unexplained.length ? (
          <Notice tone="care" title="What no plausible material explains">
            {fit.unexplained.map((u) => (
              <p key={u.what} className="text-ink-2">
                {u.what} Look for {u.look_for}.
              </p>
            ))}
          </Notice>
        ) : null}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it as described</Button>
          <Button look="main" onClick={onKeep}>
            Keep the fit
          </Button>
        </div>
      </div>
    </Sheet>
  )
}

function NoteTable({ notes }: { notes: Fit['notes'] }) {
  return (
    <table className="mt-2 w-full text-small">
      <thead className="text-left text-ink-2">
        <tr>
          <th className="font-semibold">Note</th>
          <th className="text-right font-semibold">measured</th>
          <th className="text-right font-semibold">before</th>
          <th className="text-right font-semibold">fitted</th>
        </tr>
      </thead>
      <tbody>
        {notes.map((n) => (
          <tr key={n.f_hz} className="border-t border-line">
            <td>{n.f_hz.toFixed(1)} Hz</td>
            <td className="text-right">{n.measured_s.toFixed(2)} s</td>
            <td className="text-right">{n.before_s.toFixed(2)} s</td>
            <td className="text-right">{n.after_s.toFixed(2)} s</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}

function Change({ mark, fit }: { mark: MarkKey; fit: Fit }) {
  const [before, after] = [fit.marks.before[mark], fit.marks.after[mark]]
  if (!before.predicted || !after.predicted) return null
  const says = (m: NonNullable<typeof before.predicted>) =>
    `${figure(mark, m.value)} ±${m.plus_minus.toFixed(DIGITS[mark] || 0)}`
  return (
    <div className="py-1">
      <p className="flex items-baseline justify-between text-note">
        <span className="font-display font-semibold">{after.name}</span>
        <span>
          {says(before.predicted)} → <strong className="text-change">{says(after.predicted)}</strong> {after.unit}
        </span>
      </p>
      <BeadString
        mark={mark}
        predicted={after.predicted}
        measured={after.measured}
        former={before.predicted.value}
        wanted={after.wanted}
      />
    </div>
  )
}
