/** Bytes in, bytes out: mesh readers, the frame codec, exporters. No I/O. */
export { FormatFault } from './fault.ts'
export { MESH_ENDINGS, readMesh, readPainted } from './meshes/index.ts'
export type { FileMaterial } from './meshes/glbPaint.ts'
export { encodeFrame, type Encoding } from './frames/encode.ts'
export { decodeFrame, frameHead } from './frames/decode.ts'
export { codecReady } from './frames/ready.ts'
export type { CachedFrame, Decoded } from './frames/cachedFrame.ts'
export { inOne } from './frames/slices.ts'
export { frameChain } from './frames/chain.ts'
export { PLACE_ERROR } from './frames/wholes.ts'
export { contentsHash, meshHash } from './contents.ts'
export { EXPORTS } from './export/index.ts'
export { turnedRound } from './export/backward.ts'
export { textMesh } from './meshes/text.ts'
export {
  ChoiceFault,
  CHOICES,
  filesOf,
  framesChosen,
  readChoices,
  type AllFrames,
  type ExportChoices,
  type GivenChoices,
} from './export/choices.ts'
export { SCENERIES } from './export/scenery.ts'
export { OUR_SPACE, shotIn, UNITS, UPS } from './export/space.ts'
export { frameNumber, plainName, type ExportedFile, type ExportKind, type Frames } from './export/kind.ts'
export { colourValue, coloursOf, srgbBytes } from './export/colours.ts'
export { packSequence, sequencesAmong } from './meshes/sequence.ts'
export { EVENT_FORMATS, eventFile, type EventFormat } from './export/events.ts'
