/** Bytes in, bytes out: mesh readers, the frame codec, exporters. No I/O. */
export { FormatFault } from './fault.ts'
export { MESH_ENDINGS, readMesh } from './meshes/index.ts'
export { codecReady, decodeFrame, encodeFrame, type CachedFrame } from './frame.ts'
export { contentsHash } from './contents.ts'
export { EXPORTS } from './export/index.ts'
export { plainName, type ExportedFile, type ExportKind, type Frames } from './export/kind.ts'
export { colourValue, coloursOf } from './export/colours.ts'
