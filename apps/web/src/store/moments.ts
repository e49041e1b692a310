/** When each document of the open shot came to be, whether it was saved, and the takes made of it: what the list of what happened tells. */
import type { Shot } from '@tangle/core'

export interface Moment {
  /** Milliseconds since 1970. */
  made?: number
  saved?: boolean
  /** Numbers of takes. */
  takes?: number[]
}

/** By the document itself: whatever is undone and done again is the same one. */
const moments = new WeakMap<Shot, Moment>()

export const momentOf = (document: Shot): Moment => moments.get(document) ?? {}
export const noteMoment = (document: Shot, more: Moment): void =>
  void moments.set(document, { ...momentOf(document), ...more })

/** A document is there: since now, unless it was there before. */
export function noteMade(document: Shot): void {
  if (momentOf(document).made === undefined) noteMoment(document, { made: Date.now() })
}

/** Takes of these numbers were made of a document. */
export const noteTakes = (document: Shot, numbers: number[]): void =>
  noteMoment(document, { takes: [...(momentOf(document).takes ?? []), ...numbers] })
