import type { DataSource } from 'typeorm'
import type { Context } from 'koa'
import * as yup from 'yup'
import type { Config } from '../config.ts'
import { HttpFault, notFound } from '../fault.ts'
import type { TakeQueue } from '../takes/queue.ts'

/** What routes work with. */
export interface House {
  config: Config
  source: DataSource
  queue: TakeQueue
}

/** The body of a request, checked; 422 with the path of every fault. */
export function bodyOf<T>(context: Context, schema: yup.Schema<T>): T {
  const body = (context.request as { body?: unknown }).body ?? {}
  const where = badText(body)
  if (where !== null) {
    const message = 'has a sign that can’t be stored: a zero byte, or half of a pair of surrogates'
    throw new HttpFault(422, 'text', `${where} ${message}`.trim(), [{ path: where, message }])
  }
  try {
    return schema.validateSync(body, {
      strict: true,
      abortEarly: false,
    })
  } catch (error) {
    if (!(error instanceof yup.ValidationError)) throw error
    const faults = error.inner.length > 0 ? error.inner : [error]
    const problems = faults.map((fault) => ({ path: fault.path ?? '', message: fault.message }))
    throw new HttpFault(
      422,
      'invalid',
      problems.map((p) => `${p.path} ${p.message}`.trim()).join('; '),
      problems,
    )
  }
}

/** No body is nested more deeply. */
const DEEPEST = 60

/** Where in a body there is text that is not well formed Unicode or holds a zero; null: nowhere. */
function badText(value: unknown, path = '', depth = 0): string | null {
  if (depth > DEEPEST)
    throw new HttpFault(422, 'deep', 'What was sent is nested more deeply than anything here')
  if (typeof value === 'string') return value.includes('\0') || !value.isWellFormed() ? path : null
  if (typeof value !== 'object' || value === null) return null
  for (const [name, inner] of Object.entries(value)) {
    if (badText(name) !== null) return path
    const at = Array.isArray(value) ? `${path}[${name}]` : path ? `${path}.${name}` : name
    const found = badText(inner, at, depth + 1)
    if (found !== null) return found
  }
  return null
}

/** The id in the address; 404 when it can't be one. */
export function idOf(context: Context, what: string): string {
  const id = String((context.params as Record<string, string>).id)
  if (!/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(id)) throw notFound(what)
  return id
}
