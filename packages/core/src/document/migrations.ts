import type { Problem } from './problem.ts'

/** Migrations by the version they start from: each turns a document into the next version's. */
const MIGRATIONS: Record<number, (document: Record<string, unknown>) => Record<string, unknown>> = {}
const CURRENT = 1

/** A document of any known version, brought to the current one. */
export function migrated(json: unknown): { document: unknown } | { problem: Problem } {
  if (typeof json !== 'object' || json === null || Array.isArray(json)) {
    return { problem: { path: '', message: 'a shot must be a JSON object' } }
  }
  let document: Record<string, unknown>
  try {
    document = plainJson(json) as Record<string, unknown>
  } catch (error) {
    if (!(error instanceof TooDeep)) throw error
    return { problem: { path: '', message: 'is nested more deeply than any shot: it may be damaged' } }
  }
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
  return { document: splitKeys(document) }
}

/** A shot is nested less deeply than this. */
const DEEPEST = 40
class TooDeep extends Error {}

/** A copy with what JSON has: no holes in lists, nothing that is undefined. */
function plainJson(value: unknown, depth = 0): unknown {
  if (depth > DEEPEST) throw new TooDeep()
  if (typeof value !== 'object' || value === null) return value
  if (Array.isArray(value)) return Array.from(value, (one) => plainJson(one ?? null, depth + 1))
  return Object.fromEntries(
    Object.entries(value).flatMap(([key, one]) =>
      one === undefined ? [] : [[key, plainJson(one, depth + 1)]],
    ),
  )
}

/** Keys of a whole vector, [frame, [x, y, z], ease?], are keys of each of its parts. */
function splitKeys(value: unknown): unknown {
  if (Array.isArray(value)) return value.some(isHolder) ? value.map(splitKeys) : value
  if (typeof value !== 'object' || value === null) return value
  const { keys, ...rest } = value as { keys?: unknown }
  if (Array.isArray(keys) && keys.length > 0 && keys.every(isVectorKey))
    return [0, 1, 2].map((part) => ({
      ...rest,
      keys: keys.map(([frame, vector, ...ease]) => [frame, vector[part], ...ease]),
    }))
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, splitKeys(one)]))
}
const isHolder = (value: unknown): boolean => typeof value === 'object' && value !== null
const isVectorKey = (key: unknown): key is [number, [number, number, number], ...unknown[]] =>
  Array.isArray(key) && Array.isArray(key[1]) && key[1].length === 3
