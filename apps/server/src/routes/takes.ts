import type Router from '@koa/router'
import { interactionIn, type Shot } from '@tangle/core'
import type { Context } from 'koa'
import type { DataSource, EntityManager } from 'typeorm'
import * as yup from 'yup'
import { HttpFault, notFound } from '../fault.ts'
import { current } from '../store/document.ts'
import { ShotEntity, type ShotRow, type TakeRow, type Varied } from '../store/entities.ts'
import { frameFacts, rowsOfTake } from '../store/frames.ts'
import { toldOf } from '../store/told.ts'
import { LIVE_WORKERS } from '../store/workers.ts'
import { bodyOf, idOf, type House } from './context.ts'
import { versionNumber } from './shots.ts'

/** Workers that share a take at most. */
const MOST_SLICES = 64

export const newTake = yup
  .object({
    version: versionNumber.typeError('must be the version of the shot'),
    again: yup.boolean().typeError('must be true or false'),
    slices: yup
      .number()
      .typeError('must be a number')
      .integer('must be a whole number')
      .min(1, 'must be at least 1')
      .max(MOST_SLICES, `must be at most ${MOST_SLICES}`),
  })
  .noUnknown()

export function takeRoutes(router: Router, house: House): void {
  const { source } = house
  router.get('/shots/:id/takes', async (context) => {
    context.body = await toldOf(source, idOf(context, 'shot'), undefined, context.query.deleted === '1')
  })
  router.post('/shots/:id/takes', async (context) => {
    const { version, again, slices } = bodyOf(context, newTake)
    const shotId = idOf(context, 'shot')
    const { id, made } = await source.transaction(async (manager) => {
      const shot = await lockedShot(manager, shotId, version)
      const same = again ? null : await takeOf(manager, shot)
      return same === null
        ? {
            id: await addTake(manager, house, shot, {
              document: shot.document,
              slices: await slicesOf(manager, shot.document, slices),
            }),
            made: true,
          }
        : { id: same, made: false }
    })
    context.status = made ? 201 : 200
    context.body = (await toldOf(source, shotId, id))[0]
  })
  router.get('/takes/:id', async (context) => {
    const take = await findTake(source, context)
    context.body = {
      ...(await toldOf(source, take.shotId, take.id))[0],
      document: current(take.document),
      facts: await frameFacts(source, take.id),
    }
  })
}

/** The shot, locked until the end of the transaction: takes that are asked for at once get numbers one after another. */
export async function lockedShot(
  manager: EntityManager,
  id: string,
  version: number | undefined,
): Promise<ShotRow> {
  const shot = await manager.findOne(ShotEntity, { where: { id }, lock: { mode: 'pessimistic_write' } })
  if (!shot) throw notFound('shot')
  if (version !== undefined && version !== shot.version) {
    throw new HttpFault(409, 'conflict', 'The shot has been changed since: save it first', [], {
      version: shot.version,
    })
  }
  if (shot.document.populations.every((p) => p.births.length === 0))
    throw new HttpFault(422, 'empty', 'Nothing is born in this shot: add a birth in the Births step first')
  return shot
}

/** The take of this version of the shot that is there or on its way; null: there is none. */
async function takeOf(manager: EntityManager, { id, document }: ShotRow): Promise<string | null> {
  const [row] = (await manager.query(
    `SELECT id FROM whole_take WHERE shot_id = $1 AND document = $2 AND deleted_at IS NULL AND sweep IS NULL
       AND status IN ('waiting', 'computing', 'paused', 'done') ORDER BY number DESC LIMIT 1`,
    [id, document],
  )) as { id: string }[]
  return row?.id ?? null
}

/** Into how many slices a take is split: as many as were asked for, or as there are workers that have nothing to do. */
async function slicesOf(manager: EntityManager, document: Shot, asked: number | undefined): Promise<number> {
  const together = interactionIn(current(document))
  if (together !== null) {
    if (asked === undefined || asked === 1) return 1
    throw new HttpFault(
      422,
      'together',
      `Particles of this shot act on one another (${together}): one worker computes them all, so slices must be 1`,
    )
  }
  if (asked !== undefined) return asked
  const [row] = (await manager.query(
    `SELECT (${LIVE_WORKERS})
      - (SELECT count(*) FROM take WHERE status IN ('waiting', 'computing') AND deleted_at IS NULL)::int AS idle`,
  )) as [{ idle: number }]
  return Math.min(MOST_SLICES, Math.max(1, row.idle))
}

/** Adds a take to a shot that is locked, and queues it. Returns its id. */
export async function addTake(
  manager: EntityManager,
  { queue }: House,
  { id }: ShotRow,
  {
    document,
    sweep = null,
    varied = null,
    slices = 1,
  }: { document: Shot; sweep?: string | null; varied?: Varied[] | null; slices?: number },
): Promise<string> {
  const [row] = (await manager.query(
    `INSERT INTO take (shot_id, number, document, status, sweep, varied)
     SELECT $1, coalesce(max(number), 0) + 1, $2, $5, $3, $4 FROM take WHERE shot_id = $1 RETURNING id`,
    [id, document, sweep, varied && JSON.stringify(varied), slices > 1 ? 'sliced' : 'waiting'],
  )) as [{ id: string }]
  if (slices > 1) {
    await manager.query(
      `INSERT INTO take (shot_id, document, status, part_of, slice)
       SELECT shot_id, document, 'waiting', id, jsonb_build_object('index', k, 'of', $2::int)
       FROM take, generate_series(0, $2::int - 1) k WHERE id = $1`,
      [row.id, slices],
    )
  }
  for (const one of await rowsOfTake(manager, row.id)) await queue.add(one, manager)
  return row.id
}

/** A take as artists know it. */
export type WholeTake = Pick<TakeRow, 'id' | 'shotId' | 'document' | 'status' | 'protected'> & {
  number: number
}

export async function findTake(source: DataSource, context: Context): Promise<WholeTake> {
  const [row] = (await source.query(
    `SELECT id, shot_id AS "shotId", number, document, status, protected FROM whole_take
     WHERE id = $1 AND deleted_at IS NULL`,
    [idOf(context, 'take')],
  )) as WholeTake[]
  if (!row) throw notFound('take')
  return row
}
