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
  try {
    return schema.validateSync((context.request as { body?: unknown }).body ?? {}, {
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

/** The id in the address; 404 when it can't be one. */
export function idOf(context: Context, what: string): string {
  const id = String((context.params as Record<string, string>).id)
  if (!/^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(id)) throw notFound(what)
  return id
}
