import type { Measured, ReadingSummary, RoomDoc } from '../api/client'

export type StepKey = 'brief' | 'tape' | 'listen' | 'marks' | 'treat' | 'hush' | 'take' | 'ledger'
export const STEPS: readonly { key: StepKey; name: string; question: string }[] = [
  { key: 'brief', name: 'Brief', question: 'What are you recording?' },
  { key: 'tape', name: 'Tape', question: 'What is the room like?' },
  { key: 'listen', name: 'Listen', question: 'What does the room say?' },
  { key: 'marks', name: 'Marks', question: 'Where does everybody stand?' },
  { key: 'treat', name: 'Treat', question: 'What would help?' },
  { key: 'hush', name: 'Hush', question: 'What makes noise?' },
  { key: 'take', name: 'Take', question: 'Is the take well recorded?' },
  { key: 'ledger', name: 'Ledger', question: 'What has changed, and by how much?' },
]

/** A knot is filled when its step has what it needs. Nothing is ever locked. */
export function filled(
  step: StepKey,
  document: RoomDoc,
  readings: readonly ReadingSummary[],
  measured: Measured | undefined,
): boolean {
  switch (step) {
    case 'brief':
    case 'tape':
    case 'marks':
      return document.arrangements.length > 0
    case 'listen':
      return Boolean(measured?.bounce && !measured.bounce.stale)
    case 'treat':
      return (document.arrangements[0]?.treatments.length ?? 0) > 0
    case 'hush':
      return Boolean(measured?.hush)
    case 'take':
      return readings.some((r) => r.kind === 'take' && r.verdict.usable)
    case 'ledger':
      return readings.length > 0
  }
}
