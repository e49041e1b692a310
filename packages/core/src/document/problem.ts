/** A fault in a document: where, and what to do. */
export interface Problem {
  path: string
  message: string
}
