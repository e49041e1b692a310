/** The frames of a take, and what is written of them for a renderer. */
import type Router from '@koa/router'
import type { Mesh } from '@tangle/core'
import {
  backward,
  codecReady,
  encodeFrame,
  EXPORTS,
  plainName,
  type ExportKind,
  type Frames,
} from '@tangle/formats'
import type { Context } from 'koa'
import { PassThrough, Readable } from 'node:stream'
import { finished } from 'node:stream/promises'
import yazl from 'yazl'
import { HttpFault, notFound } from '../fault.ts'
import { current } from '../store/document.ts'
import type { TakeRow } from '../store/entities.ts'
import { frameBytes, framesOf } from '../store/frames.ts'
import { loadMeshes } from '../store/meshes.ts'
import type { House } from './context.ts'
import { findTake } from './takes.ts'

export function takeFileRoutes(router: Router, { source }: House): void {
  router.get('/takes/:id/frames/:frame', async (context) => {
    const take = await findTake(source, context)
    const frame = Number((context.params as Record<string, string>).frame)
    if (!Number.isInteger(frame)) throw notFound('frame')
    context.type = 'application/octet-stream'
    if (take.status === 'done') context.set('Cache-Control', 'private, max-age=31536000, immutable')
    if (!isBackward(context) && context.query.whole !== '1') {
      context.body = await frameBytes(source, take.id, frame)
      return
    }
    // a frame that refers to no other
    await codecReady()
    const { first, last, rate } = take.document.frames
    const all: Frames = { first, last, read: framesOf(source, take.id) }
    const alone = await (isBackward(context) ? backward(all) : all).read(frame)
    context.body = Buffer.from(encodeFrame(alone, { rate, before: null }).bytes)
  })
  router.get('/takes/:id/export', async (context) => {
    const take = await findTake(source, context)
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
    const frames: Frames = { first, last, read: framesOf(source, take.id) }
    const meshes = await loadMeshes(source, current(take.document))
    await sendExport(context, kind, take, isBackward(context) ? backward(frames) : frames, meshes)
  })
}

/** Whether frames are wanted in reverse, velocities turned round. */
const isBackward = (context: Context): boolean => context.query.backward === '1'

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
