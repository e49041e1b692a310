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
import { HttpFault, notFound } from '../fault.ts'
import { frameBytes, framesOf } from '../store/frames.ts'
import { exportedTake } from '../takes/exporting.ts'
import type { House } from './context.ts'
import { findTake, type WholeTake } from './takes.ts'

export function takeFileRoutes(router: Router, { source }: House): void {
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
    const kind = EXPORTS.find((one) => one.kind === context.query.format)
    if (!kind)
      throw new HttpFault(422, 'format', `format must be one of ${EXPORTS.map((one) => one.kind).join(', ')}`)
    if (take.status !== 'done')
      throw new HttpFault(
        409,
        'unfinished',
        `This take is ${take.status}: only a finished one can be written`,
      )
    await sendExport(context, kind, take)
  })
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
