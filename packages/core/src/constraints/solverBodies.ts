/** Types of the constraints: what takes part in them, and what is known of it while they are solved. */
import type { ActedRun, Asked } from '../simulation/influencePass.ts'
import type { Colliders } from './colliders.ts'
import type { LinkState } from './linkTopology.ts'
import type { LinkRule, SleepRule } from './feeds.ts'

export interface BundleRun extends ActedRun {
  /** By id of the influence. */
  links: Map<string, LinkState>
}

/** Of all that hold one another, in the last substep. */
export interface World {
  runs: BundleRun[]
  iterations: number
  /** What bore in the last substep, for the kernel; part of a snapshot. */
  contacts: Float64Array
}

export interface Member {
  run: BundleRun
  colliders: Colliders | null
}
export interface Ready extends Member {
  /** Where its particles begin in the bundle. */
  first: number
  /** Places before constraints, 3 × f32. */
  free: number
  /** Places as the rounds begin, 3 × f64. */
  kept: number
  planes: number
  loads: number
  grips: number
  touches: Asked[]
  sleep: { asked: Asked; rule: SleepRule } | null
  links: { asked: Asked; rule: LinkRule; state: LinkState; at: number; count: number }[]
}

/** Gives heap that lasts as long as the constraints of a substep. */
export type Block = (bytes: number) => number
