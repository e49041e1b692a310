import type { MeshFacts, Shot, Slice } from '@tangle/core'
import { EntitySchema } from 'typeorm'

export interface ShotRow {
  id: string
  name: string
  document: Shot
  /** Counts up with every save; a save must name the version it changes. */
  version: number
  thumbnail: Buffer | null
  /** Pictures of some of its frames beside one another. */
  strip: Buffer | null
  createdAt: Date
  changedAt: Date
  deletedAt: Date | null
}
export interface MeshRow {
  /** SHA-256 of the file, 64 hexadecimal digits. */
  sha: string
  name: string
  /** With the ending that tells the format. */
  file: string
  bytes: number
  facts: MeshFacts
  sample: boolean
  createdAt: Date
}
/** A value of a shot that a sweep varies: where in the document, how it is called, and what it is in a take. */
export interface Varied {
  path: (string | number)[]
  name: string
  value: number
}
/** `sliced`: its slices are rows of their own; what is told of it is made from them (the view `whole_take`). */
export type TakeStatus = 'waiting' | 'computing' | 'paused' | 'done' | 'failed' | 'cancelled' | 'sliced'
export interface TakeRow {
  id: string
  shotId: string
  /** Of a slice null. */
  number: number | null
  /** The take that this is a slice of, and which of its particles it has; null: it is a take of all. */
  partOf: string | null
  slice: Slice | null
  /** The shot as it was. */
  document: Shot
  status: TakeStatus
  framesDone: number
  /** Of all frames; bigint comes as text. */
  bytes: string
  fault: string | null
  /** Whether what settles first was computed for it or is that of an earlier take; null: nothing settles. */
  settled: 'computed' | 'stored' | null
  /** What is to be known of how it was computed: that it was gone on with, or begun anew. */
  note: string | null
  /** Who has paused it: the artist, or that there was no room; null: it is not paused. */
  pausedFor: 'artist' | 'room' | null
  /** Neither deleted nor cleared away. */
  protected: boolean
  /** The machine that computes it, or did. */
  host: string | null
  /** Takes of one sweep have the same; null: it is of none. */
  sweep: string | null
  /** What the sweep has made of its values in this take. */
  varied: Varied[] | null
  /** Counts up each time a worker takes it on; an older worker can store nothing more. */
  attempt: number
  beatAt: Date | null
  startedAt: Date | null
  endedAt: Date | null
  createdAt: Date
  deletedAt: Date | null
}

const time = { type: 'timestamptz' } as const
const created = { type: 'timestamptz', name: 'created_at', createDate: true } as const
const deleted = { type: 'timestamptz', name: 'deleted_at', deleteDate: true, nullable: true } as const
const id = { type: 'uuid', primary: true, generated: 'uuid' } as const

export const ShotEntity = new EntitySchema<ShotRow>({
  name: 'Shot',
  tableName: 'shot',
  columns: {
    id,
    name: { type: 'text' },
    document: { type: 'jsonb' },
    version: { type: 'int' },
    thumbnail: { type: 'bytea', nullable: true, select: false },
    strip: { type: 'bytea', nullable: true, select: false },
    createdAt: created,
    changedAt: { ...time, name: 'changed_at' },
    deletedAt: deleted,
  },
})
export const MeshEntity = new EntitySchema<MeshRow>({
  name: 'Mesh',
  tableName: 'mesh',
  columns: {
    sha: { type: 'char', length: 64, primary: true },
    name: { type: 'text' },
    file: { type: 'text' },
    bytes: { type: 'int' },
    facts: { type: 'jsonb' },
    sample: { type: 'boolean' },
    createdAt: created,
  },
})
export const TakeEntity = new EntitySchema<TakeRow>({
  name: 'Take',
  tableName: 'take',
  columns: {
    id,
    shotId: { type: 'uuid', name: 'shot_id' },
    number: { type: 'int', nullable: true },
    partOf: { type: 'uuid', name: 'part_of', nullable: true },
    slice: { type: 'jsonb', nullable: true },
    document: { type: 'jsonb' },
    status: { type: 'text' },
    framesDone: { type: 'int', name: 'frames_done' },
    bytes: { type: 'bigint' },
    fault: { type: 'text', nullable: true },
    settled: { type: 'text', nullable: true },
    note: { type: 'text', nullable: true },
    pausedFor: { type: 'text', name: 'paused_for', nullable: true },
    protected: { type: 'boolean' },
    host: { type: 'text', nullable: true },
    sweep: { type: 'uuid', nullable: true },
    varied: { type: 'jsonb', nullable: true },
    attempt: { type: 'int' },
    beatAt: { ...time, name: 'beat_at', nullable: true },
    startedAt: { ...time, name: 'started_at', nullable: true },
    endedAt: { ...time, name: 'ended_at', nullable: true },
    createdAt: created,
    deletedAt: deleted,
  },
})
