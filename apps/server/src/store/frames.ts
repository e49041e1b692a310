import { joinMeasures, type Measures } from '@tangle/core'
import { frameChain, inOne, type Decoded } from '@tangle/formats'
import type { TakeFrame } from '@tangle/runtime/node'
import type { DataSource, EntityManager } from 'typeorm'
import { notFound } from '../fault.ts'
import { partsOf, readBytes } from './copy.ts'

const partition = (take: string): string => `take_part_${take.replaceAll('-', '')}`

/** Another worker has the take, or it was cancelled: nothing more may be stored. */
export class NoLongerOurs extends Error {}

/** Locks a take to this attempt until the end of the transaction. Throws `NoLongerOurs`. */
export async function lockOurs(manager: EntityManager, take: string, attempt: number): Promise<void> {
  const ours = (await manager.query(
    "SELECT 1 FROM take WHERE id = $1 AND attempt = $2 AND status = 'computing' AND deleted_at IS NULL FOR UPDATE",
    [take, attempt],
  )) as unknown[]
  if (ours.length === 0) throw new NoLongerOurs()
}

/**
 * Makes the partition of a take, empty, if the take is still this attempt's; with `keepTo` the frames up to that one stay. Until it
 * stands nobody else can take the take over: a worker that was held up must not clear away another one's frames.
 */
export async function openFrames(
  source: DataSource,
  take: string,
  attempt: number,
  keepTo: number | null,
): Promise<void> {
  await source.transaction(async (manager) => {
    await lockOurs(manager, take, attempt)
    if (keepTo === null) await makePartition(manager, take)
    else await manager.query('DELETE FROM take_part WHERE take_id = $1 AND frame > $2', [take, keepTo])
    await manager.query('DELETE FROM take_frame WHERE take_id = $1 AND frame > coalesce($2, -2147483648)', [
      take,
      keepTo,
    ])
    await manager.query(
      `UPDATE take SET (frames_done, bytes) =
         (SELECT count(*), coalesce(sum(bytes), 0) FROM take_frame WHERE take_id = $1) WHERE id = $1`,
      [take],
    )
  })
}
async function makePartition(manager: EntityManager, take: string): Promise<void> {
  await dropFrames(manager, take)
  await manager.query(`CREATE TABLE ${partition(take)} PARTITION OF take_part FOR VALUES IN ('${take}')`)
  await manager.query(`ALTER TABLE ${partition(take)} ALTER COLUMN bytes SET STORAGE EXTERNAL`)
  await manager.query(`CREATE INDEX ON ${partition(take)} (frame, part)`)
}

/** A cancelled take keeps no frames; one that has been begun anew does. */
export async function dropCancelled(source: DataSource, take: string): Promise<void> {
  await source.transaction(async (manager) => {
    const cancelled = (await manager.query(
      "SELECT 1 FROM take WHERE id = $1 AND status = 'cancelled' FOR UPDATE",
      [take],
    )) as unknown[]
    if (cancelled.length === 0) return
    await dropFrames(manager, take)
    await manager.query('DELETE FROM take_frame WHERE take_id = $1', [take])
    await manager.query('UPDATE take SET frames_done = 0, bytes = 0 WHERE id = $1', [take])
  })
}

export async function dropFrames(source: Pick<DataSource, 'query'>, take: string): Promise<void> {
  await source.query('DELETE FROM take_checkpoint WHERE take_id = $1', [take])
  await source.query(`DROP TABLE IF EXISTS ${partition(take)}`)
}

/**
 * Stores a frame whole or not at all, if the take is still this attempt's. One that is stored already stays: the answer to the first
 * time may have been lost with the connection.
 */
export async function storeFrame(
  source: DataSource,
  take: string,
  attempt: number,
  frame: TakeFrame,
): Promise<void> {
  const bytes = Buffer.from(frame.bytes.buffer, frame.bytes.byteOffset, frame.bytes.byteLength)
  await source.transaction(async (manager) => {
    await lockOurs(manager, take, attempt)
    const { particles, milliseconds, fingerprint, measures } = frame
    const added = (await manager.query(
      `INSERT INTO take_frame (take_id, frame, particles, milliseconds, fingerprint, measures, bytes)
       VALUES ($1, $2, $3, $4, $5, $6, $7) ON CONFLICT DO NOTHING RETURNING 1`,
      [take, frame.frame, particles, milliseconds, fingerprint, measures, bytes.length],
    )) as unknown[]
    if (added.length === 0) return
    for (const [part, piece] of partsOf(bytes)) {
      await manager.query('INSERT INTO take_part (take_id, frame, part, bytes) VALUES ($1, $2, $3, $4)', [
        take,
        frame.frame,
        part,
        piece,
      ])
    }
    await manager.query(
      'UPDATE take SET frames_done = frames_done + 1, bytes = bytes + $2, beat_at = now() WHERE id = $1',
      [take, bytes.length],
    )
  })
}

export interface FrameFacts {
  frame: number
  particles: number
  milliseconds: number
  /** Of a take in slices: theirs, with hyphens between. */
  fingerprint: string
  bytes: number
  measures: Measures
}

/** The rows that a take is computed as, in the order of its slices. */
export async function rowsOfTake(source: Pick<DataSource, 'query'>, take: string): Promise<string[]> {
  const rows = (await source.query(
    "SELECT id FROM take WHERE id = $1 AND status <> 'sliced' OR part_of = $1 ORDER BY (slice->>'index')::int",
    [take],
  )) as { id: string }[]
  return rows.map(({ id }) => id)
}

/** Of the frames that are there, with all of their slices. */
export async function frameFacts(source: DataSource, take: string): Promise<FrameFacts[]> {
  const slices = await rowsOfTake(source, take)
  const rows = (await source.query(
    `SELECT frame, particles, milliseconds, fingerprint, bytes, measures FROM take_frame
     WHERE take_id = ANY($1) ORDER BY frame, array_position($1::uuid[], take_id)`,
    [slices],
  )) as FrameFacts[]
  const byFrame = new Map<number, FrameFacts[]>()
  for (const row of rows) byFrame.set(row.frame, [...(byFrame.get(row.frame) ?? []), row])
  return [...byFrame.values()].filter((all) => all.length === slices.length).map(joinFacts)
}

function joinFacts(slices: FrameFacts[]): FrameFacts {
  const total = (of: (one: FrameFacts) => number): number => slices.reduce((sum, one) => sum + of(one), 0)
  return {
    frame: slices[0]!.frame,
    particles: total(({ particles }) => particles),
    milliseconds: total(({ milliseconds }) => milliseconds),
    fingerprint: slices.map(({ fingerprint }) => fingerprint).join('-'),
    bytes: total(({ bytes }) => bytes),
    measures: joinMeasures(slices.map(({ measures }) => measures)),
  }
}

/** The encoded bytes of a frame. `take` must be a checked uuid. */
export async function frameBytes(source: DataSource, take: string, frame: number): Promise<Uint8Array> {
  const slices = await rowsOfTake(source, take)
  const parts = await Promise.all(slices.map((slice) => sliceBytes(source, slice, frame)))
  return parts.length === 1 ? parts[0]! : inOne(parts)
}

async function sliceBytes(source: DataSource, slice: string, frame: number): Promise<Buffer> {
  const bytes = await readBytes(
    source,
    `SELECT bytes FROM take_part WHERE take_id = '${slice}' AND frame = ${Math.trunc(frame)} ORDER BY part`,
  )
  if (bytes.length === 0) throw notFound('frame')
  return bytes
}

/** Reads frames of a take, each of which may refer to others before it. */
export const framesOf = (source: DataSource, take: string): ((frame: number) => Promise<Decoded>) =>
  frameChain((frame) => frameBytes(source, take, frame))
