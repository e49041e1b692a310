import type { Problem } from './problem.ts'

/** Migrations by the version they start from: each turns a document into the next version's. */
const MIGRATIONS: Record<number, (document: Record<string, unknown>) => Record<string, unknown>> = {}
const CURRENT = 1

/** A document of any known version, brought to the current one. */
export function migrated(json: unknown): { document: unknown } | { problem: Problem } {
  if (typeof json !== 'object' || json === null || Array.isArray(json)) {
    return { problem: { path: '', message: 'a shot must be a JSON object' } }
  }
  let document = json as Record<string, unknown>
  const version = document.version
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1 || version > CURRENT) {
    return {
      problem: {
        path: 'version',
        message: `must be a whole number from 1 to ${CURRENT}: a higher one needs a newer Tangle`,
      },
    }
  }
  for (let at = version; at < CURRENT; at++) document = MIGRATIONS[at]!(document)
  return { document }
}
