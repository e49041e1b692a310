/** A crate on stdin as USD text on stdout, by tinyusdz, a reader in C++ that is not ours. It is built for pages: this process looks like one. */
import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'

const { process } = globalThis
process.type = 'renderer'
globalThis.window = globalThis
globalThis.document = {}
const library = createRequire(import.meta.url).resolve('tinyusdz/tinyusdz.js')
const { default: open } = await import(library)
const { TinyUSDZLoaderNative } = await open({ wasmBinary: readFileSync(library.replace(/\.js$/, '.wasm')) })
const reader = new TinyUSDZLoaderNative()
if (!reader.loadAsLayerFromBinary(new Uint8Array(readFileSync(0)), 'crate.usdc'))
  throw new Error(reader.error())
process.stdout.write(reader.layerToString())
