/** The frames of a take, and what is written of them for a renderer. */
import type Router from '@koa/router'
import {
  ChoiceFault,
  CHOICES,
  codecReady,
  encodeFrame,
  EXPORTS,
  framesChosen,
  plainName,
  readChoices,
  type ExportChoices,
  type ExportKind,
  type GivenChoices,
} from '@tangle/formats'
import type { Context } from 'koa'
import { existsSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import * as yup from 'yup'
import { HttpFault, notFound } from '../fault.ts'
import { frameBytes, framesOf } from '../store/frames.ts'
import { exportedTake, writtenTake } from '../takes/exporting.ts'
import { bodyOf, type House } from './context.ts'
import { findTake, type WholeTake } from './takes.ts'

export function takeFileRoutes(router: Router, house: House): void {
  const { source } = house
  writtenRoutes(router, house)
  router.get('/takes/:id/frames/:frame', async (context) => {
    const take = await findTake(source, context)
    const frame = Number((context.params as Record<string, string>).frame)
    if (!Number.isInteger(frame)) throw notFound('frame')
    context.type = 'application/octet-stream'
    if (take.status === 'done') context.set('Cache-Control', 'private, max-age=31536000, immutable')
    if (!isBackward(context) && context.query.whole !== '1') {
      context.body = Buffer.from(await frameBytes(source, take.id, frame))
      return
    }
    // a frame that refers to no other
    await codecReady()
    const { frames } = take.document
    const given = { backward: isBackward(context) ? '1' : '0', meshes: 'none' }
    const choices = readChoices(given, frames, { label: '' })
    const from = { shot: take.document, meshes: new Map(), kind: { meshes: true } }
    const chosen = framesChosen({ ...frames, read: framesOf(source, take.id) }, choices, from)
    const alone = encodeFrame(await chosen.read(frame), { rate: frames.rate, before: null })
    context.body = Buffer.from(alone.bytes)
  })
  router.get('/takes/:id/export', async (context) => {
    const take = await findTake(source, context)
    const kind = kindOf(context.query.format)
    onlyDone(take)
    await sendExport(context, kind, take)
  })
}

export const written = yup
  .object({
    format: yup.string().required('is missing: the format of the files'),
    folder: yup
      .string()
      .matches(
        /^[A-Za-z0-9_][\w.-]{0,119}$/,
        'must be a name of letters, digits, "_", "-" and ".", 120 at most',
      ),
    ...Object.fromEntries(CHOICES.map((name) => [name, yup.string()])),
  })
  .noUnknown()

/** Takes written where a renderer on this machine, or on its network, finds them. */
function writtenRoutes(router: Router, { source, config }: House): void {
  router.post('/takes/:id/files', async (context) => {
    const take = await findTake(source, context)
    const { format, folder, ...given } = bodyOf(context, written) as {
      format: string
      folder?: string
    } & GivenChoices
    if (config.exportFolder === null)
      throw new HttpFault(
        409,
        'nowhere',
        'This server writes no folders: start it with TANGLE_EXPORT_FOLDER, or download the take',
      )
    const kind = kindOf(format)
    onlyDone(take)
    checked(given, kind, take)
    const name = folder ?? `${plainName(take.document.name)}_take${take.number}_${kind.kind}`
    const to = join(config.exportFolder, name)
    if (existsSync(to))
      throw new HttpFault(409, 'there', `${to} is there already: choose another folder, or take it away`)
    await writtenTake(take.id, kind.kind, given, to)
    context.status = 201
    context.body = { folder: to, files: (await readdir(to)).length }
  })
}

function kindOf(format: unknown): ExportKind {
  const kind = EXPORTS.find((one) => one.kind === format)
  if (!kind)
    throw new HttpFault(422, 'format', `format must be one of ${EXPORTS.map((one) => one.kind).join(', ')}`)
  return kind
}

function onlyDone({ status }: WholeTake): void {
  if (status !== 'done')
    throw new HttpFault(409, 'unfinished', `This take is ${status}: only a finished one can be written`)
}

/** Whether frames are wanted in reverse, velocities turned round. */
const isBackward = (context: Context): boolean => context.query.backward === '1'

/** What an address says of how a take is written. */
function givenIn({ query }: Context): GivenChoices {
  const given = CHOICES.flatMap((name) => (typeof query[name] === 'string' ? [[name, query[name]]] : []))
  return Object.fromEntries(given) as GivenChoices
}

/** One file goes as it is, a sequence as a ZIP. */
async function sendExport(context: Context, kind: ExportKind, take: WholeTake): Promise<void> {
  const given = givenIn(context)
  const { backward } = checked(given, kind, take)
  const title = `${plainName(take.document.name)}_take${take.number}${backward ? '_backward' : ''}`
  const gone = new AbortController()
  context.res.once('close', () => gone.abort())
  context.body = await exportedTake(take.id, kind.kind, given, gone.signal)
  context.set(
    'Content-Disposition',
    `attachment; filename="${title}.${kind.kind}${kind.sequence ? '.zip' : ''}"`,
  )
  context.type = kind.sequence ? 'application/zip' : 'application/octet-stream'
}

function checked(given: GivenChoices, kind: ExportKind, take: WholeTake): ExportChoices {
  try {
    return readChoices(given, take.document.frames, kind)
  } catch (error) {
    if (error instanceof ChoiceFault) throw new HttpFault(422, 'choice', error.message)
    throw error
  }
}
