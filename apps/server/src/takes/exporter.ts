/**
 * A process that writes a take in a format to its output: one file as it is, a sequence as a ZIP, both made while they are sent, so that whoever reads
 * slowly holds it up, and nobody else; or all of it to a folder. Arguments: the take, the format, the choices as JSON, and the folder if there is one.
 */
import {
  EXPORTS,
  filesOf,
  FormatFault,
  readChoices,
  type ExportedFile,
  type GivenChoices,
} from '@tangle/formats'
import { writeTake } from '@tangle/runtime/node'
import { mkdir, mkdtemp, rename, rm } from 'node:fs/promises'
import { dirname } from 'node:path'
import { Readable } from 'node:stream'
import { finished, pipeline } from 'node:stream/promises'
import yazl from 'yazl'
import { readConfig } from '../config.ts'
import { UNWRITABLE } from './exporting.ts'
import { connectDatabase } from '../store/database.ts'
import { current } from '../store/document.ts'
import { TakeEntity } from '../store/entities.ts'
import { frameFacts, framesOf } from '../store/frames.ts'
import { loadMeshes } from '../store/meshes.ts'

const [id = '', format, given = '{}', folder] = process.argv.slice(2)

const { databaseUrl, addressFile } = readConfig(process.env)
const source = await connectDatabase(databaseUrl, addressFile)
const { document } = await source.getRepository(TakeEntity).findOneByOrFail({ id })
const shot = current(document)
const kind = EXPORTS.find((one) => one.kind === format)! // the server has looked
const choices = readChoices(JSON.parse(given) as GivenChoices, shot.frames, kind)
const frames = { ...shot.frames, read: framesOf(source, id) }
const meshes = await loadMeshes(source, shot)
try {
  if (folder !== undefined) await writeFolder(folder)
  else await writeOut(filesOf(kind, shot, frames, meshes, choices))
} catch (error) {
  if (!(error instanceof FormatFault)) throw error
  // what was chosen can't be: that is no fault of ours
  process.stderr.write(`FormatFault: ${error.message}\n`)
  process.exitCode = UNWRITABLE
}
await source.destroy()

async function writeOut(files: AsyncIterable<ExportedFile>): Promise<void> {
  if (kind.sequence) return writeZip(files)
  for await (const { pieces } of files) await pipeline(Readable.from(pieces), process.stdout, { end: false })
}

/** Whole or not at all: it has another name until it is. */
async function writeFolder(to: string): Promise<void> {
  const facts = await frameFacts(source, id)
  const fingerprints = new Map(facts.map(({ frame, fingerprint }) => [frame, fingerprint]))
  await mkdir(dirname(to), { recursive: true })
  const place = await mkdtemp(`${to}.part-`)
  try {
    await writeTake(place, { kind, shot, meshes, choices, frames, fingerprints })
    await rename(place, to)
  } catch (error) {
    await rm(place, { recursive: true, force: true })
    throw error
  }
}

/** Adds each file when the one before it has been sent, so that memory holds one at a time. */
async function writeZip(all: AsyncIterable<ExportedFile>): Promise<void> {
  const zip = new yazl.ZipFile()
  const sent = pipeline(zip.outputStream as Readable, process.stdout, { end: false })
  for await (const { name, pieces } of all) {
    const stream = Readable.from(pieces)
    zip.addReadStream(stream, name, { compress: false })
    await finished(stream)
  }
  zip.end()
  await sent
}
