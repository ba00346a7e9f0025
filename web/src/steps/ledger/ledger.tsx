import { useQuery } from '@tanstack/react-query'
import type { LedgerEntry, MarkKey } from '../../api/client'
import { roomQueries } from '../../api/queries'
import { DIGITS, figure, NAMES, UNITS } from '../../marks/scales'
import { proofOf } from '../../moves/proof'
import { useRoom } from '../../state/room'
import { Failed } from '../../ui/notice'

export function LedgerSide() {
  const { id } = useRoom()
  const ledger = useQuery(roomQueries.ledger(id))
  if (ledger.isPending)
    return (
      <p role="status" className="min-h-[52rem]">
        Opening the ledger
      </p>
    )
  if (ledger.isError) return <Failed error={ledger.error} />
  return (
    <section data-testid="ledger">
      <h2 className="mb-1 text-head">Everything, newest first</h2>
      <ol className="relative border-l-2 border-line pl-4">
        {ledger.data.map((entry) => (
          <Entry key={entry.id} entry={entry} />
        ))}
      </ol>
    </section>
  )
}

function Entry({ entry }: { entry: LedgerEntry }) {
  const at = new Date(entry.at)
  const isMove = entry.kind === 'move'
  return (
    <li className="relative pb-3">
      <span
        aria-hidden
        className={`absolute top-1.5 -left-[22px] size-2.5 rounded-full ${isMove ? 'bg-change' : entry.kind === 'reading' ? 'bg-ink' : 'bg-felt'}`}
      />
      <p className="text-fine text-ink-2">
        {at.toLocaleDateString(undefined, { day: 'numeric', month: 'short', year: 'numeric' })}{' '}
        {at.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })}
      </p>
      <p className="leading-snug font-semibold">
        {isMove ? 'Done: ' : ''}
        {entry.title}
      </p>
      {entry.proof ? <Proof rows={entry.proof} /> : <Figures detail={entry.detail} />}
    </li>
  )
}

/** Predicted beside measured, for every mark that a later reading settles. */
export function Proof({ rows }: { rows: NonNullable<LedgerEntry['proof']> }) {
  const proved = rows.filter((r) => r.measured !== null)
  if (proved.length === 0)
    return (
      <p className="text-small text-ink-2">Not proved yet: take a sweep (and a test take) in the room as it is now.</p>
    )
  const besides = [...new Set(proved.flatMap((r) => (r.since ? [r.since] : [])))]
  return (
    <table className="mt-1 w-full text-small" data-testid="proof">
      <thead className="text-left text-ink-2">
        <tr>
          <th className="font-normal">Mark</th>
          <th className="text-right font-normal">was</th>
          <th className="text-right font-normal">predicted</th>
          <th className="text-right font-normal">measured</th>
          <th className="sr-only">Verdict</th>
        </tr>
      </thead>
      <tbody>
        {proved.map((row) => {
          const mark = row.mark as MarkKey
          const digits = DIGITS[mark]
          return (
            <tr key={row.mark} className="border-t border-line">
              <th scope="row" className="py-0.5 text-left font-semibold">
                {NAMES[mark]} <span className="font-normal text-ink-2">{UNITS[mark]}</span>
              </th>
              <td className="text-right text-ink-2">
                {row.measured_before !== null ? figure(mark, row.measured_before) : '–'}
              </td>
              <td className="text-right">
                {figure(mark, row.predicted)} ±{row.plus_minus.toFixed(digits)}
              </td>
              <td className="text-right font-semibold">
                {figure(mark, row.measured!)} ±{(row.measured_plus_minus ?? 0).toFixed(digits)}
              </td>
              <td className="pl-2">
                <Outcome row={row} />
              </td>
            </tr>
          )
        })}
      </tbody>
      {proved.some((r) => r.simulated || r.since || r.words) ? (
        <caption className="caption-bottom pt-0.5 text-left text-fine text-ink-2">
          {proved
            .filter((r) => r.words)
            .map((r) => (
              <span key={r.mark} className={`block ${r.outcome === 'not_proved' ? 'text-bounce' : 'text-ink'}`}>
                <strong>{NAMES[r.mark as MarkKey]}</strong>: {proofOf(r)}
              </span>
            ))}
          {proved.some((r) => r.simulated) ? 'Measured by the practice rig (simulated). ' : ''}
          {besides.length ? `When it was measured, something else differed too: ${besides.join(', ')}.` : ''}
        </caption>
      ) : null}
    </table>
  )
}

// the change is what proves; where nothing was read before, only the level can be held against its promise
const OUTCOMES = {
  proved: ['✓', 'proved', 'text-felt'],
  partly: ['~', 'partly', 'text-change'],
  not_proved: ['≠', 'not proved', 'text-bounce'],
  too_small: ['·', 'too small to prove', 'text-ink-2'],
  agrees: ['✓', 'agrees within the uncertainties', 'text-felt'],
  differs: ['≠', 'differs by more than the uncertainties', 'text-bounce'],
} as const

function Outcome({ row }: { row: NonNullable<LedgerEntry['proof']>[number] }) {
  const [sign, said, colour] = OUTCOMES[row.outcome ?? (row.within ? 'agrees' : 'differs')]
  return (
    <span className={colour} title={said}>
      <span aria-hidden>{sign}</span>
      <span className="sr-only">{said}</span>
    </span>
  )
}

function Figures({ detail }: { detail: LedgerEntry['detail'] }) {
  const measured = (detail['measured'] ?? {}) as Record<string, { value: number }>
  const words = Object.entries(measured).map(
    ([mark, f]) => `${NAMES[mark as MarkKey]} ${figure(mark as MarkKey, f.value)} ${UNITS[mark as MarkKey]}`,
  )
  return words.length ? <p className="text-small text-ink-2">{words.join(' · ')}</p> : null
}
