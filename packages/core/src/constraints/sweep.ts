/** Each particle on its way against what its population runs into, exactly. The kernel is assembly/sweepCollide.ts. */
import { layouts, MOST_THREADS } from '@tangle/kernels'
import { floats, randomKeys, view, words } from '../state/columns.ts'
import { eventOf } from '../state/events.ts'
import type { Colliders } from './collider.ts'
import { prepareColliders } from './colliders.ts'
import type { ConstrainedPopulation, ConstraintMoment } from './constraint.ts'
import { MESH_CONTACTS } from './meshContacts.ts'

const { collider, F64, seenPlace } = layouts

/** Moves particles to where they get with all that is in their way; what they run into is kept for the rounds. */
export function sweepCollisions(population: ConstrainedPopulation, moment: ConstraintMoment): void {
  // what has a shape meets them as a body: rigidBodies.ts
  if (population.isRigid()) return
  const { columns } = population
  const { count, at } = columns
  const { machine, h, substep } = moment
  const found = prepareColliders(population, population.feeds(MESH_CONTACTS), moment)
  if (!found) {
    if (at.contactNormal) machine.run('fill', count * 3, { column: at.contactNormal, value: 0 })
    return
  }
  moment.colliders.set(population.id, found)
  const touched = touching(population)
  const seen = machine.heap.allocate(MOST_THREADS * collider.MOST * seenPlace.SIZE * F64)
  const { position, startPosition, velocity, startVelocity, age, radius } = at
  const { travelled, sideFlags, contactNormal, contactTime, contactCollider } = at
  machine.run('sweepCollide', count, {
    colliders: found.at,
    colliderCount: found.count,
    position,
    startPosition,
    velocity,
    startVelocity,
    age,
    radius,
    id: at[randomKeys(columns)],
    travelled,
    sideFlags,
    contactNormal,
    contactTime,
    contactCollider,
    seen,
    h,
    turn: substep,
  })
  machine.heap.free(seen)
  recordTouches(population, touched, found, moment)
}

/** Who touched a collider in the last substep. */
function touching({ columns }: ConstrainedPopulation): Uint8Array {
  const touched = new Uint8Array(columns.count)
  if (!columns.at.contactNormal) return touched
  const normal = floats(columns, 'contactNormal')
  for (let i = 0; i < touched.length; i++) touched[i] = isZero(normal, i) ? 0 : 1
  return touched
}
const isZero = (v: Float32Array, i: number): boolean =>
  v[i * 3] === 0 && v[i * 3 + 1] === 0 && v[i * 3 + 2] === 0

/** Who touches one now and did not in the last substep. */
function recordTouches(
  { columns, events }: ConstrainedPopulation,
  before: Uint8Array,
  { list }: Colliders,
  { from, to, h }: ConstraintMoment,
): void {
  if (!columns.at.contactNormal) return
  const [normal, time] = [floats(columns, 'contactNormal'), floats(columns, 'contactTime')]
  const [position, radius, id] = [floats(columns, 'position'), floats(columns, 'radius'), view(columns, 'id')]
  const names = list.map(({ of }) => ('shotMesh' in of ? of.shotMesh.id : ''))
  const which = words(columns, 'contactCollider')
  for (let i = 0; i < columns.count; i++) {
    if (before[i] || isZero(normal, i)) continue
    const n: [number, number, number] = [normal[i * 3]!, normal[i * 3 + 1]!, normal[i * 3 + 2]!]
    events.add(
      eventOf('touch', to - ((to - from) * time[i]!) / h, id[i]!, {
        of: names[which[i]!] ?? '',
        place: n.map((x, axis) => position[i * 3 + axis]! - x * radius[i]!) as [number, number, number],
        normal: n,
      }),
    )
  }
}
