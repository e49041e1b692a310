import type Router from '@koa/router'
import type { Context } from 'koa'
import { IsNull, Not, type DataSource } from 'typeorm'
import * as yup from 'yup'
import { HttpFault, notFound } from '../fault.ts'
import { current } from '../store/document.ts'
import { ShotEntity, TakeEntity, type TakeRow } from '../store/entities.ts'
import { dropFrames, frameFacts } from '../store/frames.ts'
import { bodyOf, idOf, type House } from './context.ts'
import { versionNumber } from './shots.ts'

const newTake = yup
  .object({ version: versionNumber.typeError('must be the version of the shot') })
  .noUnknown()

export function takeRoutes(router: Router, house: House): void {
  const { source, queue } = house
  const takes = source.getRepository(TakeEntity)

  router.get('/shots/:id/takes', async (context) => {
    const rows = await takes.find({ where: { shotId: idOf(context, 'shot') }, order: { number: 'DESC' } })
    context.body = rows.map(told)
  })
  router.post('/shots/:id/takes', async (context) => {
    const shotId = idOf(context, 'shot')
    const { version } = bodyOf(context, newTake)
    // the shot is locked: takes that are asked for at once get numbers one after another
    const id = await source.transaction(async (manager) => {
      const shot = await manager.findOne(ShotEntity, {
        where: { id: shotId },
        lock: { mode: 'pessimistic_write' },
      })
      if (!shot) throw notFound('shot')
      if (version !== undefined && version !== shot.version) {
        throw new HttpFault(409, 'conflict', 'The shot has been changed since: save it first', [], {
          version: shot.version,
        })
      }
      if (shot.document.populations.every((p) => p.births.length === 0)) {
        throw new HttpFault(
          422,
          'empty',
          'Nothing is born in this shot: add a birth in the Births step first',
        )
      }
      const [row] = (await manager.query(
        `INSERT INTO take (shot_id, number, document, status)
         SELECT $1, coalesce(max(number), 0) + 1, $2, 'waiting' FROM take WHERE shot_id = $1 RETURNING id`,
        [shotId, shot.document],
      )) as { id: string }[]
      await queue.add(row!.id, manager)
      return row!.id
    })
    context.status = 201
    context.body = told(await takes.findOneByOrFail({ id }))
  })
  router.get('/takes/:id', async (context) => {
    const take = await findTake(source, context)
    context.body = {
      ...told(take),
      document: current(take.document),
      facts: await frameFacts(source, take.id),
    }
  })
  lifecycleRoutes(router, house)
}

/** Takes that are cancelled, tried again, deleted and brought back. */
function lifecycleRoutes(router: Router, { source, queue }: House): void {
  const takes = source.getRepository(TakeEntity)
  router.post('/takes/:id/cancel', async (context) => {
    const take = await findTake(source, context)
    const [, changed] = (await source.query(
      "UPDATE take SET status = 'cancelled', ended_at = now() WHERE id = $1 AND status IN ('waiting', 'computing')",
      [take.id],
    )) as [unknown, number]
    if (changed === 0) throw new HttpFault(409, 'ended', `This take is ${take.status} already`)
    context.body = told(await takes.findOneByOrFail({ id: take.id }))
  })
  router.post('/takes/:id/retry', async (context) => {
    const take = await findTake(source, context)
    const changed = await queued(source, queue, take.id, "status IN ('failed', 'cancelled')")
    if (!changed)
      throw new HttpFault(
        409,
        'running',
        `This take is ${take.status}: only a failed or cancelled one can be tried again`,
      )
    context.body = told(await takes.findOneByOrFail({ id: take.id }))
  })
  router.delete('/takes/:id', async (context) => {
    const take = await findTake(source, context)
    await takes.softDelete({ id: take.id })
    context.status = 204
  })
  router.post('/takes/:id/restore', async (context) => {
    const id = idOf(context, 'take')
    const { affected } = await takes.restore({ id, deletedAt: Not(IsNull()) })
    if (affected === 0) throw notFound('deleted take')
    // one that was under way goes on
    await queued(source, queue, id, "status IN ('waiting', 'computing')")
    context.status = 204
  })
}

/** Lets a take wait for a worker, in the queue, if the condition holds for it; true when it does. */
function queued(source: DataSource, queue: House['queue'], id: string, condition: string): Promise<boolean> {
  return source.transaction(async (manager) => {
    const [, changed] = (await manager.query(
      `UPDATE take SET status = 'waiting', fault = NULL, attempt = attempt + 1 WHERE id = $1 AND ${condition}`,
      [id],
    )) as [unknown, number]
    if (changed > 0) await queue.add(id, manager)
    return changed > 0
  })
}

export async function findTake(source: DataSource, context: Context): Promise<TakeRow> {
  const row = await source.getRepository(TakeEntity).findOneBy({ id: idOf(context, 'take') })
  if (!row) throw notFound('take')
  return row
}

const told = ({ document, bytes, ...row }: TakeRow) => ({
  id: row.id,
  shotId: row.shotId,
  number: row.number,
  status: row.status,
  framesDone: row.framesDone,
  fault: row.fault,
  settled: row.settled,
  note: row.note,
  createdAt: row.createdAt,
  startedAt: row.startedAt,
  endedAt: row.endedAt,
  bytes: Number(bytes),
  frames: document.frames,
  name: document.name,
})

/** Takes that were deleted a while ago go for good. */
export async function purge({ source }: Pick<House, 'source'>): Promise<void> {
  const old = (await source.query("SELECT id FROM take WHERE deleted_at < now() - interval '7 days'")) as {
    id: string
  }[]
  for (const { id } of old) {
    await dropFrames(source, id)
    await source.query('DELETE FROM take WHERE id = $1', [id])
  }
}
