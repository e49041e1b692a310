/** What the engine shows: a shot through its preview, or a take of it; and what that is compared with. */
import type { Measures, Shot } from '@tangle/core'
import type { PackedPopulation, Preview, TakePlayer } from '@tangle/runtime/browser'
import type { Heat } from './moments.ts'

export interface ShownTake {
  id: string
  shot: Shot
  measures: Map<number, Measures>
  backward: boolean
}

export type PlayedTake = ShownTake & { player: TakePlayer }

interface Shown {
  shot: Shot | undefined
  preview: Preview | undefined
  take: PlayedTake | undefined
  /** What it is compared with. */
  compared: PlayedTake | undefined
  /** While that is read, and the take that is shown then, if it is one. */
  isBeside: boolean
  own: PlayedTake | undefined
  /** Frames after the playhead's that are read: a part of one, while a movie blurs what moves. */
  after: number
  heat: Heat | null
  /** A combing whose directions are shown. */
  combing: string | null
  /** The last particles there were, for the moment until the next are computed. */
  lastDrawn: PackedPopulation[]
}

/** What is drawn where nothing is. */
export const NOBODY: PackedPopulation[] = []
export const shown: Shown = {
  shot: undefined,
  preview: undefined,
  take: undefined,
  compared: undefined,
  isBeside: false,
  own: undefined,
  after: 0,
  heat: null,
  combing: null,
  lastDrawn: [],
}
