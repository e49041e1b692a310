import type Router from '@koa/router'
import { isDeepStrictEqual } from 'node:util'
import { derivedFrom, emptyShot, readShot, type Shot } from '@tangle/core'
import { In, IsNull, Not, type DataSource, type Repository } from 'typeorm'
import * as yup from 'yup'
import { HttpFault, notFound } from '../fault.ts'
import { current } from '../store/document.ts'
import { MeshEntity, ShotEntity, type ShotRow } from '../store/entities.ts'
import { bodyOf, idOf, type House } from './context.ts'

const name = yup
  .string()
  .typeError('must be text')
  .trim()
  .min(1, 'must not be empty')
  .max(200, 'must be at most 200 letters')
/** Counts up from 1; the column holds 31 bits. */
export const versionNumber = yup
  .number()
  .integer()
  .min(1)
  .max(2 ** 31 - 1)
export const newShot = yup.object({ name, document: yup.mixed() }).noUnknown()
export const savedShot = yup.object({
  version: versionNumber.required('is missing'),
  document: yup.mixed().required('is missing'),
})

export function shotRoutes(router: Router, { source }: House): void {
  const shots = source.getRepository(ShotEntity)

  router.get('/shots', async (context) => {
    const rows = await shots.find({
      order: { changedAt: 'DESC' },
      ...(context.query.deleted === '1' && { withDeleted: true, where: { deletedAt: Not(IsNull()) } }),
    })
    const having = async (picture: 'thumbnail' | 'strip'): Promise<Set<string>> =>
      new Set(
        (await shots.find({ select: { id: true }, where: { [picture]: Not(IsNull()) } })).map(({ id }) => id),
      )
    const [pictured, moving] = await Promise.all([having('thumbnail'), having('strip')])
    context.body = rows.map(({ id, name, document, version, changedAt }) => ({
      id,
      name,
      version,
      changedAt,
      frames: document.frames,
      populations: document.populations.length,
      pictured: pictured.has(id),
      moves: moving.has(id),
    }))
  })
  router.post('/shots', async (context) => {
    const body = bodyOf(context, newShot)
    const document = await checked(source, body.document ?? emptyShot(body.name ?? 'New shot'))
    if (body.name) document.name = body.name
    const row = await shots.save({ name: document.name, document, version: 1, changedAt: new Date() })
    context.status = 201
    context.body = { id: row.id, version: row.version, name: row.name }
  })
  router.get('/shots/:id', async (context) => {
    const { id, name, document, version, changedAt } = await find(shots, idOf(context, 'shot'))
    context.body = { id, name, document: current(document), version, changedAt }
  })
  router.put('/shots/:id', async (context) => {
    const id = idOf(context, 'shot')
    const { version, document } = bodyOf(context, savedShot)
    const shot = await checked(source, document)
    const { affected } = await shots.update(
      { id, version },
      { document: shot as never, name: shot.name, version: version + 1, changedAt: new Date() },
    )
    if (affected === 0) {
      const now = await find(shots, id)
      // saved already: the answer was lost with the connection, and the page sends it again
      if (now.version === version + 1 && isDeepStrictEqual(now.document, plain(shot))) {
        context.body = { version: now.version }
        return
      }
      throw new HttpFault(
        409,
        'conflict',
        'This shot was changed in another window: load it again, or keep yours as a copy',
        [],
        { version: now.version },
      )
    }
    context.body = { version: version + 1 }
  })
  lifecycleRoutes(router, source)
}

/** Copies, deleted shots and those that are brought back. */
function lifecycleRoutes(router: Router, source: DataSource): void {
  const shots = source.getRepository(ShotEntity)
  router.post('/shots/:id/duplicate', async (context) => {
    const row = await find(shots, idOf(context, 'shot'))
    const title = `${row.name}, copy`.slice(0, 200)
    const copy = await shots.save({
      name: title,
      document: { ...row.document, name: title },
      version: 1,
      changedAt: new Date(),
    })
    await source.query(
      'UPDATE shot SET (thumbnail, strip) = (SELECT thumbnail, strip FROM shot WHERE id = $1) WHERE id = $2',
      [row.id, copy.id],
    )
    context.status = 201
    context.body = { id: copy.id, version: 1, name: title }
  })
  router.delete('/shots/:id', async (context) => {
    const id = idOf(context, 'shot')
    const { affected } = await shots.softDelete({ id })
    if (affected === 0) throw notFound('shot')
    // nobody waits for the takes of a deleted shot; they can be tried again when it is brought back
    await source.query(
      "UPDATE take SET status = 'cancelled', ended_at = now() WHERE shot_id = $1 AND status IN ('waiting', 'computing')",
      [id],
    )
    context.status = 204
  })
  router.post('/shots/:id/restore', async (context) => {
    const { affected } = await shots.restore({ id: idOf(context, 'shot'), deletedAt: Not(IsNull()) })
    if (affected === 0) throw notFound('deleted shot')
    context.status = 204
  })
}

/** As the database gives it back. */
const plain = (shot: Shot): unknown => JSON.parse(JSON.stringify(shot))

async function find(shots: Repository<ShotRow>, id: string): Promise<ShotRow> {
  const row = await shots.findOneBy({ id })
  if (!row) throw notFound('shot')
  return row
}

/** Checks a document, and that its meshes are stored here. */
async function checked(source: DataSource, document: unknown): Promise<Shot> {
  const read = readShot(document)
  if (read.problems) throw invalid(read.problems)
  const named = read.shot.meshes.flatMap((mesh, i) =>
    'text' in mesh.source || derivedFrom(mesh.source)
      ? []
      : [{ i, sha: 'asset' in mesh.source ? mesh.source.asset.slice(7) : '' }],
  )
  const known = await source.getRepository(MeshEntity).findBy({ sha: In(named.map((one) => one.sha)) })
  const missing = named.filter(({ sha }) => !known.some((one) => one.sha === sha))
  if (missing.length === 0) return read.shot
  const message = 'is not stored here: add the mesh file first'
  throw invalid(missing.map(({ i }) => ({ path: `meshes[${i}].source`, message })))
}

const invalid = (problems: { path: string; message: string }[]): HttpFault =>
  new HttpFault(422, 'invalid', problems.map((p) => `${p.path} ${p.message}`.trim()).join('; '), problems)
