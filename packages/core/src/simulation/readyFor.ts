/** What has to be loaded before a shot can be computed. */
import { loadRapier } from '../constraints/rapier.ts'
import type { Shot } from '../document/types.ts'
import { isRigid } from './bodyShapes.ts'

export const needsRigidBodies = ({ populations }: Pick<Shot, 'populations'>): boolean =>
  populations.some(isRigid)

/** Loads the rigid body engine where a shot needs it: await it before `createSimulation`. */
export async function readyFor(shot: Pick<Shot, 'populations'>): Promise<void> {
  if (needsRigidBodies(shot)) await loadRapier()
}
