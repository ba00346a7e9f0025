import type { ReactNode } from 'react'

/** A sheet on which plots lie. */
export function BenchCard({ className = '', children }: { className?: string; children: ReactNode }) {
  return <div className={`rounded-2xl border border-line bg-card px-4 pt-2.5 pb-1 ${className}`}>{children}</div>
}
