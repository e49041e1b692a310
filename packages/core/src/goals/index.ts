import type { GoalKind } from './goal.ts'
import { population } from './population.ts'
import { surface } from './surface.ts'
import { vertices } from './vertices.ts'
import { volume } from './volume.ts'

/** Every kind of goal, in the order in which the interface offers them. */
export const GOALS: GoalKind[] = [surface, volume, vertices, population]
