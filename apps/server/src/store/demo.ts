import { demoAssets, demoShots } from '@tangle/demo'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { DataSource } from 'typeorm'
import { ShotEntity } from './entities.ts'
import { storeMesh } from './meshes.ts'

/** Puts Heron Quay into a new database: its shapes always, its shots only once. */
export async function loadDemo(source: DataSource, thumbnailFolder: string): Promise<void> {
  const names = new Map<string, string>()
  for (const { id, name, file, bytes } of demoAssets()) {
    const { sha } = await storeMesh(source, file, Buffer.from(bytes), name)
    names.set(id, `sha256:${sha}`)
  }
  const loaded = (await source.query("SELECT 1 FROM setting WHERE name = 'demo'")) as unknown[]
  if (loaded.length > 0) return
  const repository = source.getRepository(ShotEntity)
  // the first is the newest, so that it stands first
  for (const { slug, title, shot } of demoShots((id) => names.get(id)!).reverse()) {
    const [thumbnail, strip] = await Promise.all(
      ['png', 'webp'].map((ending) => readFile(join(thumbnailFolder, `${slug}.${ending}`)).catch(() => null)),
    )
    await repository.insert({
      name: title,
      document: shot as never,
      version: 1,
      thumbnail: thumbnail ?? null,
      strip: strip ?? null,
      changedAt: new Date(),
    })
  }
  await source.query("INSERT INTO setting VALUES ('demo', 'loaded')")
}
