import type Router from '@koa/router'
import { MESH_ENDINGS } from '@tangle/formats'
import type { Context } from 'koa'
import { HttpFault } from '../fault.ts'
import { MeshEntity, type MeshRow } from '../store/entities.ts'
import { meshFile, storeMesh } from '../store/meshes.ts'
import type { House } from './context.ts'

const told = ({ sha, name, file, bytes, facts, sample }: MeshRow) => ({
  asset: `sha256:${sha}`,
  name,
  file,
  bytes,
  facts,
  sample,
})

export function meshRoutes(router: Router, { source, config }: House): void {
  router.get('/meshes', async (context) => {
    const rows = await source.getRepository(MeshEntity).find({ order: { createdAt: 'ASC' } })
    context.body = rows.map(told)
  })
  router.post('/meshes', async (context) => {
    const file = fileName(context)
    const bytes = await readUpload(context, config.mostUploadBytes)
    context.status = 201
    context.body = told(await storeMesh(source, file, bytes))
  })
  router.get('/meshes/:sha', async (context) => {
    const { row, bytes } = await meshFile(source, String((context.params as Record<string, string>).sha))
    context.set('Cache-Control', 'private, max-age=31536000, immutable')
    context.set('Content-Disposition', `attachment; filename*=UTF-8''${encodeURIComponent(row.file)}`)
    context.type = 'application/octet-stream'
    context.body = bytes
  })
}

function fileName(context: Context): string {
  const { name } = context.query
  // what text can't hold is left out of a file's name
  const plain = typeof name === 'string' ? name.toWellFormed().replaceAll('\0', '') : ''
  const file = plain.split(/[\\/]/).at(-1)!.slice(0, 200).toWellFormed()
  const ending = file.toLowerCase().split('.').at(-1)!
  if (!MESH_ENDINGS.includes(ending)) {
    throw new HttpFault(
      415,
      'mesh',
      `"${file}" is not a mesh that can be read: use ${MESH_ENDINGS.join(', ').toUpperCase()}, and give its name as ?name=…`,
    )
  }
  return file
}

/** The body, refused as soon as it is known to be too large. */
async function readUpload(context: Context, most: number): Promise<Buffer> {
  const tooLarge = (): HttpFault => {
    context.set('Connection', 'close')
    return new HttpFault(
      413,
      'too-large',
      `A mesh file may have ${Math.round(most / 2 ** 20)} MB: make it smaller, or raise TANGLE_UPLOAD_MB`,
    )
  }
  if (Number(context.headers['content-length'] ?? 0) > most) throw tooLarge()
  const chunks: Buffer[] = []
  let size = 0
  for await (const chunk of context.req) {
    size += (chunk as Buffer).length
    if (size > most) throw tooLarge()
    chunks.push(chunk as Buffer)
  }
  return Buffer.concat(chunks)
}
