import type { DeformationKind } from './deformation.ts'
import { ripple } from './ripple.ts'
import { shake } from './shake.ts'
import { wrinkle } from './wrinkle.ts'

/** Every kind of deformation, in the order in which the interface offers them. */
export const DEFORMATIONS: DeformationKind[] = [ripple, wrinkle, shake]
