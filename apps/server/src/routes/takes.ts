import type Router from '@koa/router'
import type { Mesh } from '@tangle/core'
import {
  backward,
  codecReady,
  encodeFrame,
  EXPORTS,
  plainName,
  turnedRound,
  type ExportKind,
  type Frames,
} from '@tangle/formats'
import type { Context } from 'koa'
import { PassThrough, Readable } from 'node:stream'
import { finished } from 'node:stream/promises'
import { IsNull, Not } from 'typeorm'
import yazl from 'yazl'
import * as yup from 'yup'
import { HttpFault, notFound } from '../fault.ts'
import { current } from '../store/document.ts'
import { ShotEntity, TakeEntity, type TakeRow } from '../store/entities.ts'
import { dropFrames, frameBytes, frameFacts, readFrame } from '../store/frames.ts'
import { loadMeshes } from '../store/meshes.ts'
import { bodyOf, idOf, type House } from './context.ts'

const newTake = yup
  .object({ version: yup.number().integer().typeError('must be the version of the shot') })
  .noUnknown()

export function takeRoutes(router: Router, { source, queue }: House): void {
  const takes = source.getRepository(TakeEntity)

  const find = async (context: Context): Promise<TakeRow> => {
    const row = await takes.findOneBy({ id: idOf(context, 'take') })
    if (!row) throw notFound('take')
    return row
  }

  router.get('/shots/:id/takes', async (context) => {
    const rows = await takes.find({ where: { shotId: idOf(context, 'shot') }, order: { number: 'DESC' } })
    context.body = rows.map(told)
  })
  router.post('/shots/:id/takes', async (context) => {
    const shotId = idOf(context, 'shot')
    const { version } = bodyOf(context, newTake)
    const shot = await source.getRepository(ShotEntity).findOneBy({ id: shotId })
    if (!shot) throw notFound('shot')
    if (version !== undefined && version !== shot.version) {
      throw new HttpFault(409, 'conflict', 'The shot has been changed since: save it first', [], {
        version: shot.version,
      })
    }
    if (shot.document.populations.every((p) => p.births.length === 0)) {
      throw new HttpFault(422, 'empty', 'Nothing is born in this shot: add a birth in the Births step first')
    }
    const [row] = (await source.query(
      `INSERT INTO take (shot_id, number, document, status)
       SELECT $1, coalesce(max(number), 0) + 1, $2, 'waiting' FROM take WHERE shot_id = $1 RETURNING id`,
      [shotId, shot.document],
    )) as { id: string }[]
    await queue.add(row!.id)
    context.status = 201
    context.body = told(await takes.findOneByOrFail({ id: row!.id }))
  })
  router.get('/takes/:id', async (context) => {
    const take = await find(context)
    context.body = {
      ...told(take),
      document: current(take.document),
      facts: await frameFacts(source, take.id),
    }
  })
  router.post('/takes/:id/cancel', async (context) => {
    const take = await find(context)
    const [, changed] = (await source.query(
      "UPDATE take SET status = 'cancelled', ended_at = now() WHERE id = $1 AND status IN ('waiting', 'computing')",
      [take.id],
    )) as [unknown, number]
    if (changed === 0) throw new HttpFault(409, 'ended', `This take is ${take.status} already`)
    context.body = told(await takes.findOneByOrFail({ id: take.id }))
  })
  router.post('/takes/:id/retry', async (context) => {
    const take = await find(context)
    const [, changed] = (await source.query(
      "UPDATE take SET status = 'waiting', fault = NULL, frames_done = 0 WHERE id = $1 AND status IN ('failed', 'cancelled')",
      [take.id],
    )) as [unknown, number]
    if (changed === 0)
      throw new HttpFault(
        409,
        'running',
        `This take is ${take.status}: only a failed or cancelled one can be tried again`,
      )
    await queue.add(take.id)
    context.body = told(await takes.findOneByOrFail({ id: take.id }))
  })
  router.delete('/takes/:id', async (context) => {
    const take = await find(context)
    await takes.softDelete({ id: take.id })
    context.status = 204
  })
  router.post('/takes/:id/restore', async (context) => {
    const { affected } = await takes.restore({ id: idOf(context, 'take'), deletedAt: Not(IsNull()) })
    if (affected === 0) throw notFound('deleted take')
    context.status = 204
  })
  router.get('/takes/:id/frames/:frame', async (context) => {
    const take = await find(context)
    const frame = Number((context.params as Record<string, string>).frame)
    if (!Number.isInteger(frame)) throw notFound('frame')
    context.type = 'application/octet-stream'
    if (take.status === 'done') context.set('Cache-Control', 'private, max-age=31536000, immutable')
    if (!isBackward(context)) {
      context.body = await frameBytes(source, take.id, frame)
      return
    }
    await codecReady()
    const { first, last } = take.document.frames
    const { populations, meshes } = turnedRound(await readFrame(source, take.id, first + last - frame), frame)
    context.body = Buffer.from(encodeFrame(frame, populations, meshes))
  })
  router.get('/takes/:id/export', async (context) => {
    const take = await find(context)
    const kind = EXPORTS.find((one) => one.kind === context.query.format)
    if (!kind)
      throw new HttpFault(422, 'format', `format must be one of ${EXPORTS.map((one) => one.kind).join(', ')}`)
    if (take.status !== 'done')
      throw new HttpFault(
        409,
        'unfinished',
        `This take is ${take.status}: only a finished one can be written`,
      )
    await codecReady()
    const { first, last } = take.document.frames
    const frames: Frames = { first, last, read: (frame) => readFrame(source, take.id, frame) }
    const meshes = await loadMeshes(source, current(take.document))
    await sendExport(context, kind, take, isBackward(context) ? backward(frames) : frames, meshes)
  })
}

/** Whether frames are wanted in reverse, velocities turned round. */
const isBackward = (context: Context): boolean => context.query.backward === '1'

const told = ({ document, bytes, ...row }: TakeRow) => ({
  id: row.id,
  shotId: row.shotId,
  number: row.number,
  status: row.status,
  framesDone: row.framesDone,
  fault: row.fault,
  settled: row.settled,
  createdAt: row.createdAt,
  startedAt: row.startedAt,
  endedAt: row.endedAt,
  bytes: Number(bytes),
  frames: document.frames,
  name: document.name,
})

/** One file goes as it is, a sequence as a ZIP; both are made while they are sent. */
async function sendExport(
  context: Context,
  kind: ExportKind,
  take: TakeRow,
  frames: Frames,
  meshes: Map<string, Mesh>,
): Promise<void> {
  const title = `${plainName(take.document.name)}_take${take.number}${isBackward(context) ? '_backward' : ''}`
  const files = kind.files(current(take.document), frames, meshes)
  context.set(
    'Content-Disposition',
    `attachment; filename="${title}.${kind.kind}${kind.sequence ? '.zip' : ''}"`,
  )
  context.type = kind.sequence ? 'application/zip' : 'application/octet-stream'
  if (!kind.sequence) {
    for await (const { pieces } of files) {
      context.body = Readable.from(pieces)
      return
    }
  }
  const zip = new yazl.ZipFile()
  const out = new PassThrough()
  const gone = new AbortController()
  context.res.once('close', () => gone.abort())
  context.body = out
  zip.outputStream.pipe(out)
  void addAll(zip, files, gone.signal).catch((error: Error) => out.destroy(error))
}

/**
 * Adds each file when the one before it has been sent, so that memory holds one at a time. Ends when
 * nobody reads any more.
 */
async function addAll(
  zip: yazl.ZipFile,
  files: AsyncIterable<{ name: string; pieces: AsyncIterable<Uint8Array> }>,
  signal: AbortSignal,
): Promise<void> {
  for await (const { name, pieces } of files) {
    const stream = Readable.from(pieces, { signal })
    zip.addReadStream(stream, name, { compress: false })
    await finished(stream)
  }
  zip.end()
}

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
