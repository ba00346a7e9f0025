/** A refusal from the server: which field, why, and what to do. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly field: string,
    readonly reason: string,
    readonly cure: string,
    readonly newest: number | null = null,
  ) {
    super(`${reason} ${cure}`)
  }
}

export function refusal(status: number, body: unknown): Refused {
  const said = body as { error?: { field: string; reason: string; cure: string }; newest?: number } | undefined
  return said?.error
    ? new Refused(status, said.error.field, said.error.reason, said.error.cure, said.newest ?? null)
    : new Refused(status, 'server', `The server answered ${status}.`, 'Try again in a moment.')
}

/** Words for any failure, a dropped connection included. */
export function inWords(error: unknown): { title: string; cure: string } {
  if (error instanceof Refused) {
    const named = /^[a-z_. 0-9-]+$/i.test(error.field) && error.field.length < 40 ? `${error.field} ` : ''
    return { title: /^[A-Z'"\d]/.test(error.reason) ? error.reason : `${named}${error.reason}`, cure: error.cure }
  }
  if (error instanceof TypeError)
    return {
      title: 'Keen Quiet is not answering.',
      cure: 'Is it still running in the terminal? Your last change is kept here.',
    }
  return { title: error instanceof Error ? error.message : 'Something went wrong.', cure: 'Try again.' }
}
