/** Computes a small shot from its first frame to its last, beside the page. */
import { createSimulation, readyFor } from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import type { ExampleRequest } from './examples.ts'
import { packPopulation } from './packed.ts'

onmessage = async ({ data: { shot, meshes } }: MessageEvent<ExampleRequest>) => {
  await readyFor(shot)
  const simulation = createSimulation(createMachine(), shot, meshes)
  do {
    postMessage(simulation.populations().map((one) => packPopulation(one, [])))
  } while (simulation.frame < shot.frames.last && simulation.advance())
  simulation.dispose()
}
