import { number, reference, vector, type Parameters } from '../document/parameters.ts'
import type { MaskKind } from '../scene/mask.ts'

export type { MaskContext, MaskKind, Places } from '../scene/mask.ts'

export function mask<P extends Parameters>(kind: MaskKind<P>): MaskKind {
  return kind as unknown as MaskKind
}

export const SOFT = number({
  label: 'Soft',
  unit: 'm',
  help: 'Over what distance it falls from 1 to 0',
  default: 0.2,
  range: [0, 1e5],
  usual: [0, 2],
  step: 0.01,
  keyable: true,
})
export const ON_MESH = reference({ label: 'Mesh', help: 'The mesh it lies on', to: 'mesh' })
export const FOLLOW = reference({
  label: 'Follow',
  help: 'Moves along with a mesh; free, it stands in the world',
  to: 'mesh',
  absent: 'free',
})
export const CENTRE = vector({
  label: 'Centre',
  unit: 'm',
  help: 'Its middle',
  default: [0, 1, 0],
  range: [-1e6, 1e6],
  usual: [-10, 10],
  step: 0.01,
  keyable: true,
})
