/** Bodies against the planes of their contact manifolds with meshes and floors. The kernels are assembly/meshContacts.ts. */
import { layouts } from '@tangle/kernels'
import type { Collider } from './collider.ts'
import type { ConstraintKind } from './constraint.ts'
import { FIRMNESS } from './materials.ts'
import { manifoldBytes } from './solverBodies.ts'

const { contactPlane, material, planeImpulse } = layouts

/** Planes are looked for within this share of the radius beyond contact. */
const MARGIN = 0.6

export const MESH_CONTACTS: ConstraintKind<Collider> = {
  name: 'meshContacts',
  does: 'bodies are pressed on meshes and planes, rub on them, and are not pushed through',
  couples: false,
  prepare(bodies, _, { machine, colliders, h }) {
    const { heap } = machine
    const pressed = bodies.members.flatMap((member) => {
      const found = colliders.get(member.population.id)
      if (!found) return []
      const materials = bodies.block(Math.max(1, found.count) * material.SIZE * layouts.F64)
      heap
        .f64(materials, found.count * material.SIZE)
        .set(found.list.flatMap(({ friction, sliding, sticky }) => [friction, sliding, sticky]))
      const size = contactPlane.COUNT * planeImpulse.SIZE
      const impulses = bodies.block(member.count * size * layouts.F64)
      heap.f64(impulses, member.count * size).fill(0)
      member.planes = bodies.block(manifoldBytes(member.count))
      const { position, radius, sideFlags } = member.population.columns.at
      machine.run('findContactPlanes', member.count, {
        colliders: found.at,
        colliderCount: found.count,
        position,
        radius,
        sideFlags,
        margin: MARGIN,
        h,
        planes: member.planes,
      })
      return [{ ...member, colliders: found, materials, impulses }]
    })
    if (pressed.length === 0) return null
    const project = (): void => {
      for (const { first, count, planes, materials, impulses } of pressed)
        machine.run('solvePlanes', count, { bodies: bodies.at, first, planes, materials, impulses, h })
    }
    return {
      // what presses on the ground is borne by it before pairs look at one another
      warmStart: project,
      project,
      solveVelocities() {
        for (const { first, count, planes, materials, impulses } of pressed)
          machine.run('solvePlaneVelocities', count, {
            bodies: bodies.at,
            first,
            planes,
            materials,
            impulses,
          })
      },
      depenetrate() {
        for (const { first, count, planes } of pressed)
          machine.run('depenetratePlanes', count, { bodies: bodies.at, first, planes, firm: FIRMNESS })
      },
      apply() {
        for (const { population, count, free, colliders: found } of pressed) {
          const { position, velocity, radius, sideFlags } = population.columns.at
          machine.run('preventTunnelling', count, {
            colliders: found.at,
            colliderCount: found.count,
            position,
            from: free,
            velocity,
            radius,
            sideFlags,
            h,
          })
        }
      },
    }
  },
}
