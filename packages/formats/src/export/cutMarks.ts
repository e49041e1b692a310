import type { MeshFrame } from '@tangle/core'

/** Of each triangle whether it is a face of a cut: 1; 0 is the mesh's own. */
export const cutMarks = ({ triangles, inner }: Pick<MeshFrame, 'triangles' | 'inner'>): Uint8Array =>
  new Uint8Array(triangles.length / 3).fill(1, inner ?? triangles.length / 3)
