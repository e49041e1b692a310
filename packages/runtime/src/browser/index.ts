export {
  createPreview,
  type BirthSample,
  type Preview,
  type PreviewFrame,
  type PreviewState,
} from './preview.ts'
export { fromHalf } from '@tangle/core'
export { packMesh, packPopulation, type PackedMesh, type PackedPopulation } from './packed.ts'
export { createSurfaces, type CutPlane, type SurfaceAnswer, type Surfaces } from './surfaces.ts'
export { makeTextAside, readMeshAside, type ReadMesh } from './reading.ts'
export type { FileMaterial } from '@tangle/formats'
export { createTakePlayer, type TakePlayer } from './takePlayer.ts'
export { createTakeSheet, type SheetTake, type TakeSheet } from './takeSheet.ts'
export type { SheetPoints } from './sheet.worker.ts'
export { makeDerivedAside, type MadeMesh } from './deriving.ts'
export { playExample } from './examples.ts'
