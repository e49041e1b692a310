import type { Problem } from '@tangle/core'

/** An answer that says what is wrong and what to do. */
export class HttpFault extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly problems: Problem[] = [],
    readonly more: Record<string, unknown> = {},
  ) {
    super(message)
  }
}
export const notFound = (what: string): HttpFault =>
  new HttpFault(404, 'not-found', `There is no such ${what}; it may have been deleted`)
