import type { Pool, PoolClient } from 'pg'
import { DataSource } from 'typeorm'
import { MeshEntity, ShotEntity, TakeEntity } from './entities.ts'
import { clientsAt } from './connection.ts'
import { MIGRATIONS } from './migrations.ts'

/** A request waits no longer than this for a connection, milliseconds. */
const CONNECT_WITHIN = 5000
/** A transaction in which nothing is asked for so long is ended by the database, milliseconds: a frozen process must not hold rows for ever. */
const ASK_WITHIN = 5000

/** Connects to the database. `addressFile` says where it is once it has moved. */
export async function connectDatabase(url: string, addressFile?: string): Promise<DataSource> {
  const source = new DataSource({
    type: 'postgres',
    url,
    entities: [ShotEntity, MeshEntity, TakeEntity],
    migrations: MIGRATIONS,
    poolSize: 12,
    connectTimeoutMS: CONNECT_WITHIN,
    extra: {
      Client: clientsAt(addressFile),
      keepAlive: true,
      idle_in_transaction_session_timeout: ASK_WITHIN,
    },
    poolErrorHandler: () => undefined,
  })
  return source.initialize()
}

/** Connects, and brings the tables up to date. */
export async function openDatabase(url: string, addressFile?: string): Promise<DataSource> {
  const source = await connectDatabase(url, addressFile)
  await source.runMigrations({ transaction: 'all' })
  return source
}

export const poolOf = (source: DataSource): Pool => (source.driver as unknown as { master: Pool }).master

/** Runs work on a plain client of the pool, for what has no place in an ORM: COPY. */
export async function withClient<T>(
  source: DataSource,
  work: (client: PoolClient) => Promise<T>,
): Promise<T> {
  const client = await poolOf(source).connect()
  let broken = true
  try {
    const result = await work(client)
    broken = false
    return result
  } finally {
    // what failed may have been broken off in the middle of a message
    client.release(broken)
  }
}
