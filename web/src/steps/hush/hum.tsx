import { useState } from 'react'
import { $api } from '../../api/client'
import { ofBoth } from '../../api/queries'
import { Button } from '../../ui/button'
import { Caution, Failed } from '../../ui/notice'
import { Select } from '../../ui/select'
import { useSilences } from './silence-list'

/** Where a hum comes from, one change at a time; two silences tell whether it went. */
export function HumBench() {
  const { data: tree } = $api.useQuery('get', '/api/hum-tree')
  const silences = useSilences()
  const [path, setPath] = useState<readonly string[]>([])
  const [before, setBefore] = useState<string | null>(null)
  const [after, setAfter] = useState<string | null>(null)
  if (!tree) return null
  const at = path.at(-1) ?? tree.start
  const step = tree.steps.find((s) => s.key === at)
  const end = tree.ends.find((e) => e.key === at)
  const [one, other] = [before ?? silences[1]?.key ?? null, after ?? silences[0]?.key ?? null]
  return (
    <div className="grid gap-5 pb-3 lg:grid-cols-2" data-testid="hum-bench">
      <div>
        <h3 className="text-head leading-tight">Where does the hum or buzz come from?</h3>
        <p className="text-note text-ink-2">One change at a time, the same silence after each.</p>
        {path.length ? (
          <ol className="mt-2 text-small text-ink-2">
            {[tree.start, ...path.slice(0, -1)].map((key, i) => (
              <li key={key}>
                {i + 1}. {tree.steps.find((s) => s.key === key)?.ask}{' '}
                <span className="font-semibold text-ink">
                  {tree.steps.find((s) => s.key === key)?.went === path[i] ? 'It went.' : 'It stayed.'}
                </span>
              </li>
            ))}
          </ol>
        ) : null}
        {step ? (
          <div className="mt-2 rounded-xl border border-line-strong bg-paper p-3">
            <p className="font-display text-title leading-tight font-semibold">{step.ask}</p>
            <p className="mt-1 text-note">{step.do}</p>
            <div className="mt-3 flex flex-wrap gap-2">
              <Button look="main" small onClick={() => setPath([...path, step.went])}>
                It went
              </Button>
              <Button small onClick={() => setPath([...path, step.stayed])}>
                It stayed
              </Button>
              {path.length ? (
                <Button look="quiet" small onClick={() => setPath(path.slice(0, -1))}>
                  One back
                </Button>
              ) : null}
            </div>
          </div>
        ) : null}
        {end ? (
          <div className="mt-2 rounded-xl border-l-4 border-felt bg-paper p-3" role="status">
            <p className="font-display text-title leading-tight font-semibold">{end.cause}</p>
            <p className="mt-1 text-note">{end.cure}</p>
            {end.caution ? (
              <div className="mt-1.5">
                <Caution text={end.caution} />
              </div>
            ) : null}
            <Button look="quiet" small className="mt-2" onClick={() => setPath([])}>
              From the beginning
            </Button>
          </div>
        ) : null}
        <div className="mt-2">
          <Caution text={tree.caution} />
        </div>
      </div>
      <div>
        <h3 className="text-plain">Did it go? Two silences tell.</h3>
        {silences.length < 2 ? (
          <p className="text-note text-ink-2">
            Record a silence before and one after the change; “Take a reading” at the top does it.
          </p>
        ) : (
          <>
            <div className="mt-1 grid grid-cols-2 gap-2">
              <Select label="Before" value={one!} options={silences} onChange={setBefore} />
              <Select label="After" value={other!} options={silences} onChange={setAfter} />
            </div>
            {one && other && one !== other ? <Compared before={one} after={other} /> : null}
          </>
        )}
      </div>
    </div>
  )
}

const OUTCOME: Record<string, string> = { went: 'went', less: 'is less', stayed: 'stayed', new: 'is new' }

function Compared({ before, after }: { before: string; after: string }) {
  const { data, error } = $api.useQuery('get', '/api/readings/{reading_id}/hum/{other_id}', ofBoth(before, after))
  if (error) return <Failed error={error} />
  if (!data) return null
  return (
    <div className="mt-2">
      <p className="font-semibold">{data.words}</p>
      <ul className="text-note tabular-nums">
        {data.families.map((f) => (
          <li key={`${f.kind}-${f.f_hz}`} className="flex justify-between border-b border-line py-0.5 last:border-0">
            <span>
              {f.kind} at {f.f_hz.toFixed(0)} Hz
            </span>
            <span className="text-ink-2">
              {OUTCOME[f.outcome]}
              {f.change_db !== null && f.change_db !== undefined
                ? `, ${f.change_db > 0 ? '+' : '−'}${Math.abs(f.change_db).toFixed(1)} dB`
                : ''}
            </span>
          </li>
        ))}
      </ul>
    </div>
  )
}
