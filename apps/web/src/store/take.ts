import type { Shot } from '@tangle/core'

/** What the server tells of a take. */
export interface Take {
  id: string
  shotId: string
  number: number
  status: 'waiting' | 'computing' | 'paused' | 'done' | 'failed' | 'cancelled'
  framesDone: number
  /** How many workers may compute it at once: each a part of its particles. */
  slices: number
  fault: string | null
  settled: 'computed' | 'stored' | null
  /** What is to be known of how it was computed. */
  note: string | null
  /** Neither deleted nor cleared away. */
  protected: boolean
  /** The machine that computes it, or did. */
  host: string | null
  /** On average of the last ones. */
  millisecondsPerFrame: number | null
  /** Takes of one sweep have the same. */
  sweep: string | null
  varied: { path: (string | number)[]; name: string; value: number }[] | null
  createdAt: string
  startedAt: string | null
  endedAt: string | null
  bytes: number
  frames: Shot['frames']
  name: string
}
