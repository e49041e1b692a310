import {
  createSimulation,
  valueAt,
  type Birth,
  type Mesh,
  type Population,
  type Shot,
  type Simulation,
} from '@tangle/core'
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
  // who is born of particles is where those go
  if (birth.from !== undefined) return nothing
  const total = expected(shot, birth.amount)
  if ('swept' in birth.amount) return sweptSample(machine, meshes, shot, population, birth, frame)
  const at = 'burst' in birth.amount ? birth.amount.at : frame
  const burst = 'burst' in birth.amount ? birth.amount.burst : Math.min(total, MOST_POINTS)
  const alone: Shot = {
    ...shot,
    quality: { ...shot.quality, level: 'own', substeps: 1 },
    populations: [
      {
        ...population,
        births: [{ ...birth, muted: false, amount: { burst, at } }],
        influences: [],
        cues: [],
      },
    ],
  }
  try {
    const share = typeof burst === 'number' && burst > MOST_POINTS ? MOST_POINTS / burst : 1
    const simulation = createSimulation(machine, alone, meshes, { share })
    // meshes move from the first frame of the shot on: it is begun there, and goes on at once to the frame before
    if (at > shot.frames.first) {
      simulation.restore({ ...simulation.snapshot(), frame: at - 1 })
      simulation.advance()
    }
    const { columns, count } = simulation.populations()[0]!
    const out = {
      positions: Float32Array.from(columns.position!),
      normals: Float32Array.from(columns.velocity!),
      total: typeof burst === 'string' ? count : Math.min(total, placesFor(birth, simulation)),
    }
    simulation.dispose()
    return out
  } catch (error) {
    return { ...nothing, message: (error as Error).message }
  }
}

/** How many can be born: of a burst as many as there are places, of a rate all unless there is no place. */
function placesFor({ amount }: Birth, { world }: Simulation): number {
  const offered = world.populations[0]!.emissions[0]?.prepared?.source.offered ?? Infinity
  return 'burst' in amount || offered === 0 ? offered : Infinity
}

/** What a sweep gives from a frame to the next, as the points that it has just swept. */
function sweptSample(
  machine: Machine,
  meshes: Map<string, Mesh>,
  shot: Shot,
  population: Population,
  birth: Birth,
  frame: number,
): { positions: Float32Array; normals: Float32Array; total: number; message?: string } {
  const { first, last } = shot.frames
  const from = Math.max(first, Math.min(frame, last - 1))
  const amount = birth.amount as Extract<Birth['amount'], { swept: number }>
  const alone: Shot = {
    ...shot,
    quality: { ...shot.quality, level: 'own', substeps: 1 },
    // what has been swept before this frame is not of interest
    populations: [
      {
        ...population,
        births: [{ ...birth, muted: false, amount: { ...amount, from } }],
        influences: [],
        cues: [],
      },
    ],
  }
  try {
    const simulation = createSimulation(machine, alone, meshes)
    if (from > first) simulation.restore({ ...simulation.snapshot(), frame: from })
    simulation.advance()
    const { columns, count } = simulation.populations()[0]!
    const stride = Math.max(1, Math.ceil(count / MOST_POINTS))
    const pick = (name: 'position' | 'velocity'): Float32Array =>
      Float32Array.from(columns[name]!.filter((_, i) => Math.floor(i / 3) % stride === 0))
    const out = { positions: pick('position'), normals: pick('velocity'), total: amount.swept }
    simulation.dispose()
    return out
  } catch (error) {
    return {
      positions: new Float32Array(),
      normals: new Float32Array(),
      total: 0,
      message: (error as Error).message,
    }
  }
}

/** How many a birth gives over the whole shot, before what its mesh can offer. */
function expected(shot: Shot, amount: Shot['populations'][number]['births'][number]['amount']): number {
  if ('burst' in amount) return amount.burst === 'all' ? 0 : amount.burst
  if ('swept' in amount) return amount.swept
  if (!('rate' in amount)) return 0
  const { first, last, rate } = shot.frames
  const from = Math.max(first, amount.from ?? first)
  const to = Math.min(last, amount.to ?? last)
  let sum = 0
  for (let frame = from; frame < to; frame++) sum += valueAt(amount.rate, frame + 0.5) / rate
  return Math.min(Math.round(sum), amount.cap ?? Infinity)
}
