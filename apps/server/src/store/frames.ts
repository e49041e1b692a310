import type { Measures } from '@tangle/core'
import { decodeFrame, type CachedFrame } from '@tangle/formats'
import type { TakeFrame } from '@tangle/runtime/node'
import type { DataSource } from 'typeorm'
import { notFound } from '../fault.ts'
import { readBytes } from './copy.ts'

const PART = 2 ** 20
const partition = (take: string): string => `take_part_${take.replaceAll('-', '')}`

/** Another worker has the take, or it was cancelled: nothing more may be stored. */
export class NoLongerOurs extends Error {}

/**
 * Makes the partition of a take, empty, if the take is still this attempt's. Until it stands nobody else can take the
 * take over: a worker that was held up must not clear away another one's frames.
 */
export async function openFrames(source: DataSource, take: string, attempt: number): Promise<void> {
  await source.transaction(async (manager) => {
    const ours = (await manager.query(
      "SELECT 1 FROM take WHERE id = $1 AND attempt = $2 AND status = 'computing' FOR UPDATE",
      [take, attempt],
    )) as unknown[]
    if (ours.length === 0) throw new NoLongerOurs()
    await dropFrames(manager, take)
    await manager.query('DELETE FROM take_frame WHERE take_id = $1', [take])
    await manager.query(`CREATE TABLE ${partition(take)} PARTITION OF take_part FOR VALUES IN ('${take}')`)
    await manager.query(`ALTER TABLE ${partition(take)} ALTER COLUMN bytes SET STORAGE EXTERNAL`)
    await manager.query(`CREATE INDEX ON ${partition(take)} (frame, part)`)
  })
}

/** A cancelled take keeps no frames; one that has been begun anew does. */
export async function dropCancelled(source: DataSource, take: string): Promise<void> {
  await source.transaction(async (manager) => {
    const cancelled = (await manager.query(
      "SELECT 1 FROM take WHERE id = $1 AND status = 'cancelled' FOR UPDATE",
      [take],
    )) as unknown[]
    if (cancelled.length > 0) await dropFrames(manager, take)
  })
}

export async function dropFrames(source: Pick<DataSource, 'query'>, take: string): Promise<void> {
  await source.query(`DROP TABLE IF EXISTS ${partition(take)}`)
}

/** Stores a frame whole or not at all, if the take is still this attempt's. */
export async function storeFrame(
  source: DataSource,
  take: string,
  attempt: number,
  frame: TakeFrame,
): Promise<void> {
  const bytes = Buffer.from(frame.bytes.buffer, frame.bytes.byteOffset, frame.bytes.byteLength)
  await source.transaction(async (manager) => {
    // frames can be computed again: they need not wait for the disk
    await manager.query('SET LOCAL synchronous_commit = off')
    const [, changed] = (await manager.query(
      `UPDATE take SET frames_done = frames_done + 1, bytes = bytes + $3, beat_at = now()
       WHERE id = $1 AND attempt = $2 AND status = 'computing'`,
      [take, attempt, bytes.length],
    )) as [unknown, number]
    if (changed === 0) throw new NoLongerOurs()
    await manager.query(
      'INSERT INTO take_frame (take_id, frame, particles, milliseconds, fingerprint, measures, bytes) VALUES ($1, $2, $3, $4, $5, $6, $7)',
      [
        take,
        frame.frame,
        frame.particles,
        frame.milliseconds,
        frame.fingerprint,
        frame.measures,
        bytes.length,
      ],
    )
    for (let part = 0; part * PART < bytes.length; part++) {
      const piece = bytes.subarray(part * PART, (part + 1) * PART)
      await manager.query('INSERT INTO take_part (take_id, frame, part, bytes) VALUES ($1, $2, $3, $4)', [
        take,
        frame.frame,
        part,
        piece,
      ])
    }
  })
}

export interface FrameFacts {
  frame: number
  particles: number
  milliseconds: number
  fingerprint: string
  bytes: number
  measures: Measures
}

export const frameFacts = (source: DataSource, take: string): Promise<FrameFacts[]> =>
  source.query(
    'SELECT frame, particles, milliseconds, fingerprint, bytes, measures FROM take_frame WHERE take_id = $1 ORDER BY frame',
    [take],
  )

/** The encoded bytes of a frame. `take` must be a checked uuid. */
export async function frameBytes(source: DataSource, take: string, frame: number): Promise<Buffer> {
  const bytes = await readBytes(
    source,
    `SELECT bytes FROM take_part WHERE take_id = '${take}' AND frame = ${Math.trunc(frame)} ORDER BY part`,
  )
  if (bytes.length === 0) throw notFound('frame')
  return bytes
}

export const readFrame = async (source: DataSource, take: string, frame: number): Promise<CachedFrame> =>
  decodeFrame(await frameBytes(source, take, frame))
