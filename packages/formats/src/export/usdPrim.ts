/** What the writers of USD have in common: prims, and attributes that take values from frames. */
import type { MeshFrame } from '@tangle/core'
import type { CachedFrame } from '../frames/cachedFrame.ts'
import type { Frames } from './kind.ts'
import type { MaterialInput } from './usdMaterials.ts'

/** What an attribute is at a frame, S being what a frame gives its prim. */
export interface UsdAttribute<S> {
  /** As in `point3f[] points`. */
  declaration: string
  width: 1 | 2 | 3 | 4
  interpolation?: 'vertex' | 'uniform' | 'faceVarying'
  /** It is the same at all times. */
  constant?: true
  values(sample: S): ArrayLike<number>
}
export interface UsdPrim<S = unknown> {
  type: 'Points' | 'PointInstancer' | 'Mesh' | 'BasisCurves'
  name: string
  /** Tokens that do not change. */
  uniforms: [name: string, token: string][]
  attributes: UsdAttribute<S>[]
  /** Meshes below it that are drawn for its points alone. */
  prototypes: { name: string; mesh: MeshFrame; material: MaterialInput[] | null }[]
  /** There is none between frames. */
  wholeFrames?: true
  /** Of a mesh. */
  material?: MaterialInput[]
  /** Goes through the times of the frames. */
  samples(frames: Frames): AsyncIterable<{ time: number; sample: S }>
}

/** Under which a prim says whose it is in the shot. */
export const ID = 'userProperties:id'

export const plain = <S>(prim: UsdPrim<S>): UsdPrim => prim as UsdPrim

export async function* samplesOf<S>(frames: Frames, of: (frame: CachedFrame) => S) {
  for (const time of frames.times) yield { time, sample: of(await frames.read(time)) }
}
