/** Bodies against the planes of their contact manifolds with meshes and floors. The kernels are assembly/meshContacts.ts. */
import { layouts } from '@tangle/kernels'
import type { Collider, Colliders } from './collider.ts'
import type { ConstraintKind, ConstraintMoment, Member, SolverBodies } from './constraint.ts'
import { contactSweeps, FIRMNESS } from './materials.ts'

const { contactPlane, planeGroup } = layouts

export const MESH_CONTACTS: ConstraintKind<Collider> = {
  name: 'meshContacts',
  does: 'bodies are pressed on meshes and planes, rub on them, and are not pushed through',
  couples: false,
  prepare(bodies, _, moment) {
    const { machine, colliders, h } = moment
    const near = bodies.members.flatMap((member) => {
      const found = colliders.get(member.population.id)
      return found ? [pressMember(bodies, member, found, moment)] : []
    })
    if (near.length === 0) return null
    const { moved, speeds } = bodies
    const pressed = near.filter(({ count }) => count > 0)
    const project = (): void => {
      for (const { groups, count } of pressed) machine.run('solvePlanes', count, { groups, moved })
    }
    return {
      // what presses on the ground is borne by it before pairs look at one another
      warmStart: project,
      project,
      sweeps: contactSweeps(h, 0),
      solveVelocities() {
        for (const { groups, count } of pressed)
          machine.run('solvePlaneVelocities', count, { groups, speeds, h })
      },
      depenetrate() {
        for (const { groups, count } of pressed)
          machine.run('depenetratePlanes', count, { groups, moved, firm: FIRMNESS })
      },
      apply() {
        for (const { member, colliders: found } of near) {
          const { population, count, free } = member
          const { position, velocity, radius, sideFlags } = population.columns.at
          machine.run('preventTunnelling', count, {
            colliders: found.at,
            colliderCount: found.count,
            position,
            from: free,
            velocity,
            radius,
            sideFlags,
            margin: member.margin,
            planes: member.planes,
            h,
          })
        }
      },
    }
  },
}

/** Who of a population may be pressed on a surface in a substep, as groups of four (planeGroup). */
interface Pressed {
  member: Member
  colliders: Colliders
  /** Pointer to them, and how many. */
  groups: number
  count: number
}

function pressMember(
  { block, count: nobody, starts, moved, marks }: SolverBodies,
  member: Member,
  found: Colliders,
  { machine, h }: ConstraintMoment,
): Pressed {
  const { heap } = machine
  const { population, first, count } = member
  const planes = block(count * contactPlane.COUNT * contactPlane.SIZE * layouts.F64)
  member.planes = planes
  member.offsets = block(Math.max(1, found.count) * layouts.F64)
  heap.f64(member.offsets, found.count).set(found.list.map(({ offset }) => offset))
  const { position, radius, sideFlags } = population.columns.at
  machine.run('findContactPlanes', count, {
    colliders: found.at,
    colliderCount: found.count,
    position,
    radius,
    sideFlags,
    margin: member.margin,
    h,
    planes,
  })
  const pressed = block(count * 4)
  const pressedCount = machine.call('selectPressed', { count, planes, out: pressed })
  const groupCount = Math.ceil(pressedCount / 4)
  const groups = block(groupCount * planeGroup.SIZE * layouts.F32)
  const which = { pressed, pressedCount, first, nobody, planes, colliders: found.at }
  machine.run('startPlanes', groupCount, { ...which, starts, moved, marks, h, groups })
  return { member, colliders: found, groups, count: groupCount }
}
