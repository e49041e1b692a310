import { createSimulation, valueAt, type Mesh, type Shot } from '@tangle/core'
import type { Machine } from '@tangle/kernels'

/** Most points shown of a birth. */
const MOST_POINTS = 20000

/**
 * The points that a birth would give from `frame` on, where they are born, with the velocity they
 * set out with; and how many it gives in the whole shot.
 */
export function sampleBirth(
  machine: Machine,
  meshes: Map<string, Mesh>,
  asked: { shot: Shot; population: string; birth: string; frame: number },
): { positions: Float32Array; normals: Float32Array; total: number; message?: string } {
  const { shot, frame } = asked
  const population = shot.populations.find((p) => p.id === asked.population)
  const birth = population?.births.find((b) => b.id === asked.birth)
  const nothing = { positions: new Float32Array(), normals: new Float32Array(), total: 0 }
  if (!population || !birth) return nothing
  const total = expected(shot, birth.amount)
  const at = 'burst' in birth.amount ? birth.amount.at : frame
  const burst = 'burst' in birth.amount ? birth.amount.burst : Math.min(total, MOST_POINTS)
  const alone: Shot = {
    ...shot,
    frames: { ...shot.frames, first: at, last: at },
    populations: [
      { ...population, births: [{ ...birth, muted: false, amount: { burst, at } }], influences: [] },
    ],
  }
  try {
    const share = typeof burst === 'number' && burst > MOST_POINTS ? MOST_POINTS / burst : 1
    const simulation = createSimulation(machine, alone, meshes, { share })
    const { columns, count } = simulation.populations()[0]!
    const out = {
      positions: Float32Array.from(columns.position!),
      normals: Float32Array.from(columns.velocity!),
      total: typeof burst === 'string' ? count : total,
    }
    simulation.dispose()
    return out
  } catch (error) {
    return { ...nothing, message: (error as Error).message }
  }
}

/** How many a birth gives over the whole shot, before what its mesh can offer. */
function expected(shot: Shot, amount: Shot['populations'][number]['births'][number]['amount']): number {
  if ('burst' in amount) return amount.burst === 'all' ? 0 : amount.burst
  const { first, last, rate } = shot.frames
  const from = Math.max(first, amount.from ?? first)
  const to = Math.min(last, amount.to ?? last)
  let sum = 0
  for (let frame = from; frame < to; frame++) sum += valueAt(amount.rate, frame + 0.5) / rate
  return Math.min(Math.round(sum), amount.cap ?? Infinity)
}
