import type { Schemas } from '../../api/client'
import { inThePhones } from '../../api/queries'
import { pitchAxis, trueMinus } from '../../plots/axis'
import { XYPlot } from '../../plots/xy-plot'
import { AskWithFile } from './ask-with-file'

/** How late and how loud one hears oneself. */
export function PhonesBench({ take }: { take: string }) {
  return (
    <div data-testid="phones">
      <h3 className="text-head leading-tight">How late and how loud do you hear yourself?</h3>
      <ol className="ml-5 list-decimal text-note text-ink-2">
        <li>Turn the phones down, then up to where you sing with them. Off your ears while you measure.</li>
        <li>
          Put{' '}
          <a className="font-semibold underline underline-offset-2" href={`/api/readings/${take}/original`} download>
            this take
          </a>{' '}
          on a track of your recorder, and hold one cup to the microphone, the monitors off.
        </li>
        <li>Play it and record from its very beginning on a second track, gain as it is. Bring that second track.</li>
      </ol>
      <AskWithFile<Schemas['LatencyAnswer']>
        label="The recording of one cup"
        choose="Choose the recording"
        busy="Looking for the take in it"
        ask={(file) => inThePhones(take, file)}
        said={(found) => found.text}
      >
        {(found) => (found.latency_ms === null ? null : <Comb found={found} />)}
      </AskWithFile>
    </div>
  )
}

const TICKS_HZ = [30, 50, 100, 200, 500, 1000, 2000, 4000]

/** What both ways together do to a sound. */
function Comb({ found }: { found: Schemas['LatencyAnswer'] }) {
  const f = found.comb_hz
  const domain: [number, number] = [f[0]!, f.at(-1)!]
  const lowest = (found.ripple_db ?? 0) > 10 ? -24 : -9
  return (
    <div className="mt-2">
      <XYPlot
        question="What does hearing both ways do to your sound?"
        answer={`Your own sound and the phones together, as loud as they are here: ${(found.ripple_db ?? 0).toFixed(0)} dB between tops and notches.`}
        x={pitchAxis(
          domain,
          TICKS_HZ.filter((hz) => hz > domain[0] && hz < domain[1]),
        )}
        y={{
          name: 'against you alone',
          unit: 'dB',
          domain: [lowest, 8],
          ticks: [lowest, lowest / 3, 0, 6],
          text: trueMinus,
        }}
        series={[
          {
            name: 'both',
            unit: 'dB',
            points: f.map((hz, i) => [hz, Math.max(found.comb_db[i]!, lowest)]),
            colour: 'var(--mic)',
            kind: 'line',
            width: 1.8,
            silent: true,
          },
        ]}
        marks={found.notches_hz
          .filter((hz) => hz > domain[0] && hz < domain[1])
          .slice(0, 1)
          .map((hz) => ({ x: hz, text: `${hz.toFixed(0)} Hz`, colour: 'var(--change)' }))}
        fileName="phones-comb"
      />
    </div>
  )
}
