export {
  createPreview,
  type BirthSample,
  type Preview,
  type PreviewFrame,
  type PreviewState,
} from './preview.ts'
export { packPopulation, type PackedPopulation } from './packed.ts'
export { readMeshAside, type ReadMesh } from './reading.ts'
export { createTakePlayer, type TakePlayer } from './takePlayer.ts'
