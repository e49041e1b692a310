import type Router from '@koa/router'
import type { IncomingMessage } from 'node:http'
import { HttpFault, notFound } from '../fault.ts'
import { ShotEntity } from '../store/entities.ts'
import { idOf, type House } from './context.ts'

/** Pictures that are kept of a shot: one of a frame, and a strip of several beside one another. The largest of each, bytes. */
const MOST = { thumbnail: 400_000, strip: 2_000_000 }
type Kind = keyof typeof MOST

export function thumbnailRoutes(router: Router, { source }: House): void {
  const shots = source.getRepository(ShotEntity)
  for (const kind of Object.keys(MOST) as Kind[]) {
    router.get(`/shots/:id/${kind}`, async (context) => {
      const row = await shots.findOne({
        where: { id: idOf(context, 'shot') },
        select: { id: true, [kind]: true },
      })
      const picture = row?.[kind]
      if (!picture) throw notFound(kind)
      context.type = isPng(picture) ? 'image/png' : 'image/webp'
      context.set('Cache-Control', 'no-cache')
      context.body = picture
    })
    router.put(`/shots/:id/${kind}`, async (context) => {
      const id = idOf(context, 'shot')
      const { affected } = await shots.update({ id }, { [kind]: await readPicture(context.req, kind) })
      if (affected === 0) throw notFound('shot')
      context.status = 204
    })
  }
}

/** The body of a request, which must be a picture and no larger than MOST. */
async function readPicture(request: IncomingMessage, kind: Kind): Promise<Buffer> {
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of request) {
    size += (chunk as Buffer).length
    if (size > MOST[kind])
      throw new HttpFault(413, 'too-large', `A ${kind} is at most ${MOST[kind] / 1000} kB`)
    chunks.push(chunk as Buffer)
  }
  const image = Buffer.concat(chunks)
  if (!isPng(image) && !isWebp(image)) throw new HttpFault(422, 'invalid', `A ${kind} must be a PNG or WebP`)
  return image
}

/** By its signature, first chunk and last one (PNG, third edition, §5). */
const isPng = (image: Buffer): boolean =>
  image.subarray(0, 8).toString('latin1') === '\x89PNG\r\n\x1a\n' &&
  image.subarray(12, 16).toString('latin1') === 'IHDR' &&
  image.subarray(-8, -4).toString('latin1') === 'IEND'

/** By its signature and its length (RIFF container of WebP, RFC 9649, §2.4). */
const isWebp = (image: Buffer): boolean =>
  image.length > 16 &&
  image.subarray(0, 4).toString('latin1') === 'RIFF' &&
  image.subarray(8, 12).toString('latin1') === 'WEBP' &&
  image.readUInt32LE(4) + 8 === image.length
