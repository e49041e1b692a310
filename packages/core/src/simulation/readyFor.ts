/** What has to be loaded before a shot can be computed. */
import { loadRapier } from '../constraints/rapier.ts'
import type { Shot } from '../document/types.ts'
import { loadManifold } from '../geometry/manifold.ts'
import { isRigid } from './bodyShapes.ts'

type Needing = Pick<Shot, 'populations' | 'meshes'>

export const needsRigidBodies = ({ populations }: Pick<Shot, 'populations'>): boolean =>
  populations.some(isRigid)
export const needsSolidCuts = ({ meshes }: Pick<Shot, 'meshes'>): boolean => meshes.some(({ cut }) => cut)

/**
 * Loads the rigid body engine and the library of solids where a shot needs them: await it before `createSimulation`.
 * @param manifoldAt where the program of that library lies, where it is not found by itself
 */
export async function readyFor(shot: Needing, manifoldAt?: string): Promise<void> {
  if (needsRigidBodies(shot)) await loadRapier()
  if (needsSolidCuts(shot)) await loadManifold(manifoldAt)
}
