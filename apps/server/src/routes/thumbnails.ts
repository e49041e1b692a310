import type Router from '@koa/router'
import type { IncomingMessage } from 'node:http'
import { HttpFault, notFound } from '../fault.ts'
import { ShotEntity } from '../store/entities.ts'
import { idOf, type House } from './context.ts'

/** Largest thumbnail, bytes. */
const MOST_THUMBNAIL = 400_000

export function thumbnailRoutes(router: Router, { source }: House): void {
  const shots = source.getRepository(ShotEntity)
  router.get('/shots/:id/thumbnail', async (context) => {
    const row = await shots.findOne({
      where: { id: idOf(context, 'shot') },
      select: { id: true, thumbnail: true },
    })
    if (!row?.thumbnail) throw notFound('thumbnail')
    context.type = 'image/png'
    context.set('Cache-Control', 'no-cache')
    context.body = row.thumbnail
  })
  router.put('/shots/:id/thumbnail', async (context) => {
    const id = idOf(context, 'shot')
    const { affected } = await shots.update({ id }, { thumbnail: await readPng(context.req) })
    if (affected === 0) throw notFound('shot')
    context.status = 204
  })
}

/** The body of a request, which must be a PNG of no more than MOST_THUMBNAIL bytes. */
async function readPng(request: IncomingMessage): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of request) {
    size += (chunk as Buffer).length
    if (size > MOST_THUMBNAIL) throw new HttpFault(413, 'too-large', 'A thumbnail is at most 400 kB')
    chunks.push(chunk as Buffer)
  }
  const image = Buffer.concat(chunks)
  if (!isPng(image)) throw new HttpFault(422, 'invalid', 'A thumbnail must be a PNG')
  return image
}

/** By its signature, first chunk and last one (PNG, third edition, §5). */
const isPng = (image: Buffer): boolean =>
  image.subarray(0, 8).toString('latin1') === '\x89PNG\r\n\x1a\n' &&
  image.subarray(12, 16).toString('latin1') === 'IHDR' &&
  image.subarray(-8, -4).toString('latin1') === 'IEND'
