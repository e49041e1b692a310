/**
 * A process that writes a take in a format to its output: one file as it is, a sequence as a ZIP, both made while they are sent, so that whoever reads
 * slowly holds it up, and nobody else. Arguments: the take, the format, and the choices as JSON.
 */
import { EXPORTS, filesOf, readChoices, type ExportedFile, type GivenChoices } from '@tangle/formats'
import { FormatFault } from '@tangle/formats'
import { Readable } from 'node:stream'
import { finished, pipeline } from 'node:stream/promises'
import yazl from 'yazl'
import { readConfig } from '../config.ts'
import { UNWRITABLE } from './unwritable.ts'
import { connectDatabase } from '../store/database.ts'
import { current } from '../store/document.ts'
import { TakeEntity } from '../store/entities.ts'
import { framesOf } from '../store/frames.ts'
import { loadMeshes } from '../store/meshes.ts'

const [id = '', format, given = '{}'] = process.argv.slice(2)

const { databaseUrl, addressFile } = readConfig(process.env)
const source = await connectDatabase(databaseUrl, addressFile)
const { document } = await source.getRepository(TakeEntity).findOneByOrFail({ id })
const shot = current(document)
const kind = EXPORTS.find((one) => one.kind === format)! // the server has looked
const choices = readChoices(JSON.parse(given) as GivenChoices, shot.frames, kind)
const frames = { ...shot.frames, read: framesOf(source, id) }
const files = filesOf(kind, shot, frames, await loadMeshes(source, shot), choices)
try {
  if (kind.sequence) await writeZip(files)
  else
    for await (const { pieces } of files)
      await pipeline(Readable.from(pieces), process.stdout, { end: false })
} catch (error) {
  if (!(error instanceof FormatFault)) throw error
  // what was chosen can't be: that is no fault of ours
  process.stderr.write(`FormatFault: ${error.message}\n`)
  process.exitCode = UNWRITABLE
}
await source.destroy()

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
