import type { ReactNode } from 'react'
import { ErrorBoundary } from 'react-error-boundary'
import { Button } from './button'
import { Notice } from './notice'

/**
 * A part of the page that may fail without taking the rest along: a reading or a room it does not understand is told
 * as such. again : with another value of it the part is tried anew.
 */
export function Whole({ what, again, children }: { what: string; again: unknown; children: ReactNode }) {
  return (
    <ErrorBoundary
      resetKeys={[again]}
      fallbackRender={({ resetErrorBoundary }) => (
        <Notice
          tone="stop"
          title={`${what} cannot be shown.`}
          body="What you have is safe. The rest of the page goes on; tell us what you did last."
        >
          <Button small className="mt-1.5" onClick={resetErrorBoundary}>
            Try again
          </Button>
        </Notice>
      )}
    >
      {children}
    </ErrorBoundary>
  )
}
