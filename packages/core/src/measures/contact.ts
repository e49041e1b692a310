/** What is measured of contact and links at a frame. */
import { signLimit } from '../scene/distance.ts'
import { STANDARD_GRAVITY } from '../influences/gravity.ts'
import { unit, type Vector } from '../math/vector.ts'
import { valueAt, vectorAt } from '../document/keys.ts'
import type { KeyedVector } from '../document/types.ts'
import type { Moment } from '../simulation/influencePass.ts'
import type { BundleRun } from '../constraints/solverBodies.ts'
import { actingColliders, rightSide } from '../constraints/colliders.ts'
import { floats, placesOfSome, words } from '../state/columns.ts'
import { LINK } from '../constraints/linkTopology.ts'
import { widestRadius } from '../state/neighbours.ts'

export interface ContactMeasures {
  /** Particles whose centre is on the wrong side of a mesh or plane that they collide with. */
  inside: number
  /** How far the worst of the others reaches in, metres. */
  worst: number
  /** Those that have come to rest and sleep. */
  asleep: number
}
export interface LinkMeasures {
  alive: number
  made: number
  broken: number
  /** Stretch of the worst, a share of its length, and of the worst that held since the start. */
  worst: number
  most: number
}
/** Joule. */
export interface EnergyMeasures {
  kinetic: number
  /** In the pull of gravity, from the origin. */
  potential: number
  /** In links. */
  elastic: number
}

/** Above so many, evenly taken ones stand for all. */
const MOST_ASKED = 20_000

/** Null where nothing collides. */
export function measureContact(run: BundleRun, moment: Moment): ContactMeasures | null {
  const { columns, source } = run
  const acting = actingColliders(run, moment)
  const asleep = source.influences.find((one) => one.kind === 'sleep' && !one.muted)
  if (acting.length === 0 && !asleep) return null
  const stride = Math.max(1, Math.ceil(columns.count / MOST_ASKED))
  const asked = Array.from({ length: Math.ceil(columns.count / stride) }, (_, k) => k * stride)
  const { heap } = moment.machine
  const points = placesOfSome(columns, asked)
  const radius = floats(columns, 'radius')
  const widest = widestRadius(columns)
  const wrong = new Set<number>()
  let worst = 0
  for (const { collider, asked: one } of acting) {
    const amount = heap.f32(one.substep.amount, columns.count)
    const reach = widest + Math.abs(collider.offset)
    const limit = 'shotMesh' in collider.of ? signLimit(collider.of, moment.to, reach) : undefined
    const { distance } = rightSide(moment.machine, collider, moment.to, points, asked.length, limit)
    asked.forEach((i, n) => {
      if (amount[i] === 0) return
      const away = collider.side === 0 ? Math.abs(distance[n]!) : distance[n]!
      if (away < -1e-5) wrong.add(i)
      else worst = Math.max(worst, radius[i]! + collider.offset - away)
    })
    one.free()
  }
  heap.free(points)
  const wait = asleep ? (asleep.wait as number) : Infinity
  const still = columns.at.still ? floats(columns, 'still') : new Float32Array(0)
  return {
    inside: wrong.size * stride,
    worst,
    asleep: still.reduce((sum, seconds) => sum + (seconds >= wait ? 1 : 0), 0),
  }
}

/** Null where nothing is linked. */
export function measureLinks({ links }: BundleRun): LinkMeasures | null {
  if (links.size === 0) return null
  const all = { alive: 0, made: 0, broken: 0, worst: 0, most: 0 }
  for (const { records, made, broken, most } of links.values()) {
    all.most = Math.max(all.most, most)
    all.alive += records.length / LINK
    all.made += made
    all.broken += broken
    for (let n = 8; n < records.length; n += LINK) all.worst = Math.max(all.worst, records[n]!)
  }
  return all
}

export function measureEnergy(run: BundleRun, frame: number): EnergyMeasures {
  const { columns, source, phases } = run
  const [velocity, position] = [floats(columns, 'velocity'), floats(columns, 'position')]
  const inverseMass = floats(columns, 'inverseMass')
  const phase = words(columns, 'phase')
  const pulls = source.influences.flatMap((one) => {
    if (one.kind !== 'gravity' || one.muted) return []
    const along = unit(vectorAt(one.direction as KeyedVector, frame), [0, -1, 0])
    const strength = valueAt(one.strength, frame) * STANDARD_GRAVITY
    return [{ along, by: phases.map((name) => strength * (one.weights[name] ?? 0)) }]
  })
  let [kinetic, potential] = [0, 0]
  for (let i = 0; i < columns.count; i++) {
    const at = (values: Float32Array): Vector => [values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!]
    const mass = 1 / inverseMass[i]!
    const [v, x] = [at(velocity), at(position)]
    kinetic += 0.5 * mass * (v[0] ** 2 + v[1] ** 2 + v[2] ** 2)
    for (const { along, by } of pulls)
      potential -= mass * by[phase[i]!]! * (along[0] * x[0] + along[1] * x[1] + along[2] * x[2])
  }
  return { kinetic, potential, elastic: [...run.links.values()].reduce((sum, one) => sum + one.elastic, 0) }
}
