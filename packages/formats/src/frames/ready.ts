import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { MeshoptEncoder } from 'meshoptimizer/encoder'

/** Frames can be encoded and decoded once this has resolved. */
export const codecReady = (): Promise<void> =>
  Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready]).then(() => undefined)
