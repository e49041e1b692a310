import type { MeshFrame, PopulationFrame } from '@tangle/core'

/** What a take has of a frame. */
export interface CachedFrame {
  frame: number
  populations: PopulationFrame[]
  /** What is left of meshes that are eaten, in the world. */
  meshes: MeshFrame[]
}
/** A frame that the next one may refer to: as it is read back, and the key frame that it goes back to. */
export interface Decoded extends CachedFrame {
  key: number
  /** What it was put together from; absent: it was computed in one. */
  slices?: Decoded[]
}
