/** A process that reads a mesh file from its input, so that a large or hostile one cannot harm the server. */
import { meshFacts } from '@tangle/core'
import { FormatFault, readMesh } from '@tangle/formats'
import { buffer } from 'node:stream/consumers'
import type { ReadAnswer } from './reading.ts'

async function read(name: string): Promise<ReadAnswer> {
  try {
    return { facts: meshFacts(await readMesh(name, await buffer(process.stdin))) }
  } catch (error) {
    return {
      fault: error instanceof FormatFault ? error.message : `can't be read: ${(error as Error).message}`,
    }
  }
}
process.send!(await read(process.argv[2]!))
