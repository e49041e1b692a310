import type { Machine } from '@tangle/kernels'
import type { Shot } from '../document/types.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { createSimulation, type Simulation, type SimulationOptions } from '../simulation/simulation.ts'
import { measureSimulation, type Measures } from './measures.ts'

/** A simulation that can be measured. */
export interface MeasuredSimulation extends Simulation {
  measures(): Measures
}

/** A shot made ready to run; see simulation/simulation.ts. */
export function createMeasuredSimulation(
  machine: Machine,
  shot: Shot,
  meshes: Map<string, Mesh>,
  options?: SimulationOptions,
): MeasuredSimulation {
  const simulation = createSimulation(machine, shot, meshes, options)
  return Object.assign(simulation, { measures: () => measureSimulation(simulation) })
}
