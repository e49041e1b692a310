/**
 * Universal Scene Description in value clips, for takes that are too large for one file: NAME.usda is what is opened; it says what there is and that its
 * values at each frame are in NAME.FRAME.usdc, so that a renderer reads the frames that it draws and no others. NAME.manifest.usda lists
 * what varies. What is in them says usdSchema.ts. Source: OpenUSD, "Sequencable, Re-timeable Animated Value Clips".
 */
import type { Shot } from '@tangle/core'
import { createCrate } from './crate.ts'
import { readCrate } from './crateReader.ts'
import {
  byFrame,
  frameNumber,
  inOnePiece,
  keepingLast,
  plainName,
  timesOf,
  type ExportedFile,
  type ExportKind,
  type Frames,
} from './kind.ts'
import { headOf, materialIn, schemaOf, toldOf, uniformsOf, writePrototypes } from './usda.ts'
import { sampleAt, samplingOf, writeStage, type Sampling } from './usdc.ts'
import { framesIn } from './usdReader.ts'
import type { UsdPrim } from './usdPrim.ts'
import { primsOf } from './usdSchema.ts'

/** Where the head of a crate says where its tables are. */
const TOC_AT = 16

export const usdClips: ExportKind = {
  kind: 'usd-clips',
  label: 'USD value clips',
  help: 'A crate for each frame and a small file that plays them: for takes of many gigabytes',
  sequence: true,
  meshes: true,
  between: true,
  async *files(shot, frames, sources): AsyncGenerator<ExportedFile> {
    const name = plainName(shot.name)
    const once = keepingLast(frames)
    const prims = await primsOf(shot, once, sources)
    const going = prims.map((prim) => samplingOf(prim, once))
    const clips: [frame: number, file: string][] = []
    for (let frame = frames.first; frame <= frames.last; frame++) {
      const file = `${name}.${frameNumber(frame, frames.digits)}.usdc`
      clips.push([frame, file])
      yield { name: file, pieces: inOnePiece(clipOf(shot, frames, going, frame)) }
    }
    yield {
      name: `${name}.manifest.usda`,
      pieces: text(`${headOf(shot, frames)}${prims.map((one) => declared(one)).join('')}}\n`),
    }
    yield { name: `${name}.usda`, pieces: text(stageOf(shot, frames, prims, clips)) }
  },
  async *readBack(read, names) {
    for (const [frame, files] of byFrame(names, /\.(-?\d+)\.usdc$/))
      for (const file of files)
        for (const one of framesIn(readCrate(await read(file)))) if (one.frame === frame) yield one
  },
}

const text = (whole: string): AsyncIterable<Uint8Array> => inOnePiece(new TextEncoder().encode(whole))

/** The crate of a frame; it is small enough to be made in one. */
async function clipOf(shot: Shot, frames: Frames, going: Sampling[], frame: number): Promise<Uint8Array> {
  const crate = createCrate(0)
  const now = going.map((one) => ({
    ...one,
    // what instances are drawn as is in the file that plays the clips
    prim: { ...one.prim, prototypes: [] },
    times: [],
    values: one.prim.attributes.map(() => []),
  }))
  for (const time of timesOf(frames, frame)) for (const one of now) await sampleAt(crate, one, time)
  writeStage(crate, shot, { ...frames, first: frame, last: frame }, now)
  const toc = crate.finish()
  const bytes = new Uint8Array(await new Blob(crate.pieces as Uint8Array<ArrayBuffer>[]).arrayBuffer())
  new DataView(bytes.buffer).setBigUint64(TOC_AT, BigInt(toc), true)
  return bytes
}

/** A prim with its attributes and without their values. */
function declared(prim: UsdPrim, head = ''): string {
  const attributes = prim.attributes.map((one) => `        ${one.declaration}${toldOf(one)}\n`)
  return `    def ${prim.type} "${prim.name}"${head}\n    {\n${uniformsOf(prim)}${attributes.join('')}    }\n`
}

function stageOf(shot: Shot, frames: Frames, prims: UsdPrim[], clips: [number, string][]): string {
  const name = plainName(shot.name)
  const { first, last } = frames
  const of = (value: (clip: [number, string], n: number) => string): string => clips.map(value).join(', ')
  const told = ` (
    clips = {
        dictionary default = {
            double2[] active = [${of(([frame], n) => `(${frame}, ${n})`)}]
            asset[] assetPaths = [${of(([, file]) => `@./${file}@`)}]
            asset manifestAssetPath = @./${name}.manifest.usda@
            string primPath = "/${name}"
            double2[] times = [(${first}, ${first}), (${last + 1}, ${last + 1})]
        }
    }
)`
  const bodies = prims.map((prim) =>
    declared(prim, schemaOf(prim)).replace(
      / {4}\}\n$/,
      `${[...writePrototypes(`/${name}/${prim.name}`, prim)].join('')}${materialIn(`/${name}/${prim.name}`, prim)}    }\n`,
    ),
  )
  return `${headOf(shot, frames, told)}${bodies.join('')}}\n`
}
