import {
  createSimulation,
  keptAttributes,
  type Measures,
  type Mesh,
  type MeshFrame,
  type PopulationEvents,
  type PopulationFrame,
  type Shot,
  type Slice,
  type Snapshot,
} from '@tangle/core'
import type { Machine } from '@tangle/kernels'

export interface BakedFrame {
  frame: number
  /** Views into the simulation: gone when the next frame is asked for. */
  populations: PopulationFrame[]
  /** What is left of meshes that are eaten. */
  meshes: MeshFrame[]
  particles: number
  milliseconds: number
  fingerprint: string
  measures: Measures
  /** What happened to particles in the frame. */
  events: () => PopulationEvents[]
}

export interface BakeOptions {
  first: number
  last: number
  share?: number
  /** Only these particles. */
  slice?: Slice | null
  /** The state to start from: one that has settled, or that of the frame before `first`. */
  from?: Snapshot
  /** Hears of the state that has settled, where it was not known. */
  onSettled?: (snapshot: Snapshot) => void
  /** Is asked after each frame whether its state is wanted, and hears of it. */
  checkpoints?: { due: () => boolean; keep: (snapshot: Snapshot) => void }
}

/** Computes a shot and hands out its frames from `first` to `last`, in order. */
export function* bake(
  machine: Machine,
  shot: Shot,
  meshes: Map<string, Mesh>,
  { first, last, share = 1, slice = null, from: state, onSettled, checkpoints }: BakeOptions,
): Generator<BakedFrame> {
  let from = performance.now()
  const simulation = createSimulation(machine, shot, meshes, {
    share,
    slice,
    clock: () => performance.now(),
    ...(state ? { from: state } : {}),
  })
  if (shot.quality.settle > 0 && !state) onSettled?.(simulation.snapshot())
  try {
    for (;;) {
      const { frame } = simulation
      if (frame >= first) {
        const populations = simulation
          .populations()
          .map((one, i) => thinned(one, keptAttributes(shot.populations[i]!)))
        yield {
          frame,
          populations,
          // those are the same in every slice
          meshes: slice && slice.index > 0 ? [] : simulation.meshes(),
          particles: populations.reduce((sum, p) => sum + p.count, 0),
          milliseconds: Math.round((performance.now() - from) * 100) / 100,
          fingerprint: simulation.fingerprint(),
          measures: simulation.measures(),
          events: () => simulation.events(),
        }
        if (frame < last && checkpoints?.due()) checkpoints.keep(simulation.snapshot())
      }
      if (frame >= last) return
      from = performance.now()
      simulation.advance()
    }
  } finally {
    simulation.dispose()
  }
}

/** Only the columns that are kept. */
const thinned = (population: PopulationFrame, names: string[]): PopulationFrame => ({
  ...population,
  columns: Object.fromEntries(Object.entries(population.columns).filter(([name]) => names.includes(name))),
})
