import type { Pool, PoolClient } from 'pg'
import { DataSource } from 'typeorm'
import { MeshEntity, ShotEntity, TakeEntity } from './entities.ts'
import { First1764000000000, Settled1764100000000 } from './migrations.ts'

/** Opens the database and brings its tables up to date. */
export async function openDatabase(url: string): Promise<DataSource> {
  const source = new DataSource({
    type: 'postgres',
    url,
    entities: [ShotEntity, MeshEntity, TakeEntity],
    migrations: [First1764000000000, Settled1764100000000],
    poolSize: 12,
  })
  await source.initialize()
  await source.runMigrations({ transaction: 'all' })
  return source
}

/** Runs work on a plain client of the pool, for what has no place in an ORM: COPY. */
export async function withClient<T>(
  source: DataSource,
  work: (client: PoolClient) => Promise<T>,
): Promise<T> {
  const pool = (source.driver as unknown as { master: Pool }).master
  const client = await pool.connect()
  try {
    return await work(client)
  } finally {
    client.release()
  }
}
