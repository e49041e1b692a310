import type { Parameters } from '../document/parameters.ts'
import type { DeformationKind } from '../scene/deformation.ts'

export type { DeformationKind, Surface } from '../scene/deformation.ts'

export function deformation<P extends Parameters>(kind: DeformationKind<P>): DeformationKind {
  return kind as unknown as DeformationKind
}
