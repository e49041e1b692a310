/** What is measured of contact and links at a frame. */
import { rightSide } from '../constraints/colliders.ts'
import { BOND, bondTables } from '../constraints/bondKind.ts'
import { linksOf } from '../constraints/links.ts'
import { MESH_CONTACTS } from '../constraints/meshContacts.ts'
import { RIGID_BODIES } from '../constraints/rigidKind.ts'
import type { RigidMemory } from '../constraints/rigidWorld.ts'
import { SLEEPING } from '../constraints/sleeping.ts'
import { influenceKind } from '../registry.ts'
import { isRigid } from '../simulation/bodyShapes.ts'
import { constrained } from '../simulation/influencePass.ts'
import type { Moment, PopulationState, World } from '../simulation/world.ts'
import { floats, positionsOfSome } from '../state/columns.ts'
import { layouts } from '@tangle/kernels'
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
export interface BondMeasures {
  made: number
  whole: number
  broken: number
  /** Bodies that pieces are, those that bonds hold together as one. */
  bodies: number
  /** Of what it bears, the highest share that a bond bears now, and that one has borne since the start. */
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
  /** In the turning of rigid bodies; absent where there are none. */
  spin?: number
}

/** Above so many, evenly taken ones stand for all. */
const MOST_ASKED = 20_000

/** Null where nothing collides. */
export function measureContact(population: PopulationState, moment: Moment): ContactMeasures | null {
  const { columns, source } = population
  // rigid bodies are no balls
  const acting = isRigid(source) ? [] : constrained(population, moment).feeds(MESH_CONTACTS)
  const asleep = source.influences.find(
    (one) => !one.muted && influenceKind(one.kind).constraint?.name === SLEEPING.name,
  )
  if (acting.length === 0 && !asleep) return null
  const stride = Math.max(1, Math.ceil(columns.count / MOST_ASKED))
  const asked = Array.from({ length: Math.ceil(columns.count / stride) }, (_, k) => k * stride)
  const { heap } = moment.machine
  const points = positionsOfSome(columns, asked)
  const radius = floats(columns, 'radius')
  const widest = widestRadius(columns)
  const wrong = new Set<number>()
  let worst = 0
  for (const { rule: collider, amount: pointer, free } of acting) {
    const amount = heap.f32(pointer, columns.count)
    const reach = widest + Math.abs(collider.offset)
    const { distance } = rightSide(moment.machine, collider, moment.to, points, asked.length, reach)
    asked.forEach((i, n) => {
      if (amount[i] === 0) return
      const away = collider.side === 0 ? Math.abs(distance[n]!) : distance[n]!
      if (away < -1e-5) wrong.add(i)
      else worst = Math.max(worst, radius[i]! + collider.offset - away)
    })
    free()
  }
  heap.free(points)
  const wait = asleep ? (asleep.wait as number) : Infinity
  const still = columns.at.restTime ? floats(columns, 'restTime') : new Float32Array(0)
  return {
    inside: wrong.size * stride,
    worst,
    asleep: still.reduce((sum, seconds) => sum + (seconds >= wait ? 1 : 0), 0),
  }
}

/** Null where nothing is linked. */
export function measureLinks(world: World, population: string): LinkMeasures | null {
  const links = Object.values(linksOf(world.memory, population))
  if (links.length === 0) return null
  const all = { alive: 0, made: 0, broken: 0, worst: 0, most: 0 }
  for (const { records, made, broken, most } of links) {
    all.most = Math.max(all.most, most)
    all.alive += records.length / layouts.link.SIZE
    all.made += made
    all.broken += broken
    for (let n = layouts.link.stretch; n < records.length; n += layouts.link.SIZE)
      all.worst = Math.max(all.worst, records[n]!)
  }
  return all
}

/** Null where nothing is bonded. */
export function measureBonds({ memory, populations }: World, population: string): BondMeasures | null {
  const table = bondTables(memory)[population]
  if (!table) return null
  const number = populations.findIndex(({ source }) => source.id === population)
  const told = memory[RIGID_BODIES.name] as RigidMemory | undefined
  // while none is free each is by itself, and nobody has told of bodies
  const apart = !told || told.rested
  return {
    made: table.made,
    whole: table.state.reduce((sum, state) => sum + (state === BOND.whole ? 1 : 0), 0),
    broken: table.broken,
    bodies: apart
      ? populations[number]!.columns.count
      : told.bodies.filter((one) => one.population === number).length,
    worst: table.load.reduce((a, b) => Math.max(a, b), 0),
    most: table.most,
  }
}

/** J in the links of a population. */
export const elasticEnergy = (world: World, population: string): number =>
  Object.values(linksOf(world.memory, population)).reduce((sum, { elastic }) => sum + elastic, 0)
