/** Takes that are cancelled, paused, put first, tried again, protected, deleted and brought back. */
import type Router from '@koa/router'
import type { Context } from 'koa'
import type { DataSource } from 'typeorm'
import * as yup from 'yup'
import { HttpFault, notFound } from '../fault.ts'
import { dropCancelled, rowsOfTake } from '../store/frames.ts'
import { bytesOfTakes } from '../store/space.ts'
import { toldOf } from '../store/told.ts'
import { bodyOf, idOf, type House } from './context.ts'
import { findTake } from './takes.ts'

/** What turns a take's status into another: where it may be, and what is said where it is not. */
const TURNS = {
  cancel: {
    from: "status IN ('waiting', 'computing', 'paused')",
    to: "status = 'cancelled', paused_for = NULL, ended_at = now()",
    code: 'ended',
    refusal: (status: string) => `This take is ${status} already`,
  },
  pause: {
    from: "status IN ('waiting', 'computing')",
    to: "status = 'paused', paused_for = 'artist'",
    code: 'still',
    refusal: (status: string) => `This take is ${status}: only one that waits or is computed can be paused`,
  },
  protect: {
    from: 'NOT protected',
    to: 'protected = true',
    code: 'protected',
    refusal: () => 'It is already',
  },
  unprotect: { from: 'protected', to: 'protected = false', code: 'unprotected', refusal: () => 'It is not' },
}
/** What lets one wait for a worker again. */
const RETURNS = {
  resume: { from: "status = 'paused'", only: 'one that is paused can go on' },
  retry: { from: "status IN ('failed', 'cancelled')", only: 'a failed or cancelled one can be tried again' },
}

export function takeLifecycleRoutes(router: Router, house: House): void {
  const { source, queue } = house
  const tell = async (context: Context, { shotId, id }: { shotId: string; id: string }): Promise<void> => {
    context.body = (await toldOf(source, shotId, id))[0]
  }
  for (const [name, { from, to, code, refusal }] of Object.entries(TURNS)) {
    router.post(`/takes/:id/${name}`, async (context) => {
      const take = await findTake(source, context)
      const [, changed] = (await source.query(
        `UPDATE take SET ${to} WHERE (id = $1 OR part_of = $1) AND ${from}`,
        [take.id],
      )) as [unknown, number]
      if (changed === 0) throw new HttpFault(409, code, refusal(take.status))
      if (name === 'cancel') await dropAll(source, take.id)
      await tell(context, take)
    })
  }
  for (const [name, { from, only }] of Object.entries(RETURNS)) {
    router.post(`/takes/:id/${name}`, async (context) => {
      const take = await findTake(source, context)
      if (!(await queue.again(take.id, from)))
        throw new HttpFault(409, 'running', `This take is ${take.status}: only ${only}`)
      await tell(context, take)
    })
  }
  router.post('/takes/:id/first', async (context) => {
    const take = await findTake(source, context)
    if (take.status !== 'waiting')
      throw new HttpFault(409, 'running', `This take is ${take.status}: only one that waits can be put first`)
    await queue.putFirst(take.id)
    await tell(context, take)
  })
  router.delete('/takes/:id', async (context) => {
    const take = await findTake(source, context)
    if (take.protected)
      throw new HttpFault(409, 'protected', `Take ${take.number} is protected: let it go first`)
    await source.query('UPDATE take SET deleted_at = now() WHERE id = $1 OR part_of = $1', [take.id])
    context.status = 204
  })
  router.post('/takes/:id/restore', async (context) => {
    const id = idOf(context, 'take')
    const [, changed] = (await source.query(
      'UPDATE take SET deleted_at = NULL WHERE (id = $1 OR part_of = $1) AND deleted_at IS NOT NULL',
      [id],
    )) as [unknown, number]
    if (changed === 0) throw notFound('deleted take')
    // one that was under way goes on
    await queue.again(id, "status IN ('waiting', 'computing')")
    context.status = 204
  })
  spaceRoutes(router, house)
}

/** A cancelled take gives its room back, that of slices which were done, too. */
async function dropAll(source: DataSource, id: string): Promise<void> {
  await source.query("UPDATE take SET status = 'cancelled' WHERE part_of = $1 AND status = 'done'", [id])
  for (const row of await rowsOfTake(source, id)) await dropCancelled(source, row)
}

export const kept = yup
  .object({
    keep: yup
      .number()
      .typeError('must be how many takes stay')
      .integer('must be a whole number')
      .min(0, 'must not be below 0')
      .required('is missing: how many of the newest finished takes stay'),
  })
  .noUnknown()

/** What takes occupy, and clearing away those that nobody needs. */
function spaceRoutes(router: Router, { source, config }: House): void {
  router.get('/space', async (context) => {
    const quota = Number.isFinite(config.quotaBytes) ? config.quotaBytes : null
    context.body = { takes: await bytesOfTakes(source), quota, folder: config.exportFolder }
  })
  router.post('/shots/:id/clear', async (context) => {
    const shot = idOf(context, 'shot')
    const { keep } = bodyOf(context, kept)
    const rows = (await source.query(
      `SELECT id, bytes FROM whole_take WHERE shot_id = $1 AND deleted_at IS NULL AND NOT protected
         AND status IN ('done', 'failed', 'cancelled') AND id NOT IN
         (SELECT id FROM whole_take WHERE shot_id = $1 AND deleted_at IS NULL AND status = 'done'
          ORDER BY number DESC LIMIT $2)`,
      [shot, keep],
    )) as { id: string; bytes: string }[]
    const gone = rows.map(({ id }) => id)
    await source.query('UPDATE take SET deleted_at = now() WHERE id = ANY($1) OR part_of = ANY($1)', [gone])
    context.body = {
      takes: gone,
      bytes: rows.reduce((sum, { bytes }) => sum + Number(bytes), 0),
    }
  })
}
