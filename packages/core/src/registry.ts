/** Every kind there is. A new one is a file in its folder and a line in that folder's index.ts. */
import { BIRTHS } from './births/index.ts'
import { CUES } from './cues/index.ts'
import { DEFORMATIONS } from './deformations/index.ts'
import { GOALS } from './goals/index.ts'
import { INFLUENCES } from './influences/index.ts'
import type { InfluenceKind } from './influences/influence.ts'
import { MASKS } from './masks/index.ts'
import { BONDS } from './constraints/bondKind.ts'
import { LIQUID } from './constraints/fluid.ts'
import { FLOATING } from './constraints/fluidTable.ts'
import { LINKS } from './constraints/links.ts'
import { MESH_CONTACTS } from './constraints/meshContacts.ts'
import { PARTICLE_CONTACTS } from './constraints/particleContacts.ts'
import { RIGID_BODIES } from './constraints/rigidKind.ts'
import { SLEEPING } from './constraints/sleeping.ts'
import type { ConstraintKind } from './constraints/constraint.ts'
import { RESPONSES } from './responses/index.ts'

export { BIRTHS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS, RESPONSES }

/** In the order in which they are solved in each round. */
export const CONSTRAINTS: ConstraintKind[] = [
  RIGID_BODIES,
  SLEEPING,
  LINKS,
  BONDS,
  PARTICLE_CONTACTS,
  LIQUID,
  FLOATING,
  MESH_CONTACTS,
].map((kind) => kind as unknown as ConstraintKind)

const finder =
  <K extends { kind: string }>(kinds: K[]) =>
  (kind: string): K => {
    const found = kinds.find((one) => one.kind === kind)
    if (!found) throw new Error(`There is no kind "${kind}": the schema lets none such pass`)
    return found
  }
export const birthKind = finder(BIRTHS)
export const cueKind = finder(CUES)
export const goalKind = finder(GOALS)
export const influenceKind: (kind: string) => InfluenceKind = finder(INFLUENCES)
