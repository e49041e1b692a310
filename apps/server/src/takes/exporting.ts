import type { GivenChoices } from '@tangle/formats'
import { fork, type ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { PassThrough, type Readable } from 'node:stream'
import { fileURLToPath } from 'node:url'
import { HttpFault } from '../fault.ts'

/** The code with which a process ends that cannot write a take as it was chosen; it has said why. */
export const UNWRITABLE = 3
/** Takes that are written at once; the rest wait. */
const AT_ONCE = 2
/** Letters of what a process says when it fails. */
const LONGEST_FAULT = 2000

let writing = 0
const waiting: (() => void)[] = []

/** Awaits a place among those that write, and hands out what gives it back. */
async function place(): Promise<() => void> {
  if (writing >= AT_ONCE) await new Promise<void>((resolve) => waiting.push(resolve))
  else writing++
  let given = false
  return () => {
    if (given) return
    given = true
    const next = waiting.shift()
    if (next) next()
    else writing--
  }
}

/**
 * What a take is in a format, written by a process of its own, as it comes; the process ends with the stream. Rejects when it fails before there
 * is anything; the stream breaks off when it fails later.
 */
export async function exportedTake(
  take: string,
  format: string,
  given: GivenChoices,
  gone: AbortSignal,
): Promise<Readable> {
  const leave = await place()
  if (gone.aborted) {
    leave()
    throw goneAway()
  }
  const exporter = start([take, format, JSON.stringify(given)])
  exporter.once('close', leave)
  exporter.once('error', leave)
  gone.addEventListener('abort', () => exporter.kill('SIGKILL'))
  const fault = faultOf(exporter)
  const body = new PassThrough()
  exporter.stdout!.pipe(body, { end: false })
  // what is cut off must not look whole
  exporter.once('close', (code) => {
    if (code === 0) body.end()
    else if (code === UNWRITABLE) body.destroy(new HttpFault(422, 'unwritable', fault()))
    else body.destroy(new Error(`The take could not be written: ${fault() || 'the writer was ended'}`))
  })
  exporter.once('error', (error) => body.destroy(error))
  try {
    await once(body, 'readable')
  } catch (error) {
    if (gone.aborted) throw goneAway()
    throw error
  }
  return body
}

/** Writes a take in a format to a folder of this machine that is not there yet. */
export async function writtenTake(
  take: string,
  format: string,
  given: GivenChoices,
  folder: string,
): Promise<void> {
  const leave = await place()
  const exporter = start([take, format, JSON.stringify(given), folder])
  const fault = faultOf(exporter)
  exporter.stdout!.resume()
  try {
    const [code] = (await once(exporter, 'close')) as [number | null]
    if (code === UNWRITABLE) throw new HttpFault(422, 'unwritable', fault())
    if (code !== 0)
      throw new HttpFault(
        500,
        'unwritten',
        `The take could not be written: ${fault() || 'the writer was ended'}`,
      )
  } finally {
    leave()
  }
}

const start = (words: string[]): ChildProcess =>
  fork(fileURLToPath(new URL('./exporter.mjs', import.meta.url)), words, {
    stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
    execArgv: ['--enable-source-maps'],
  })

const goneAway = (): HttpFault => new HttpFault(499, 'gone', 'Nobody reads this any more')

/** What a process has said of its failure so far, without where. */
function faultOf({ stderr }: ChildProcess): () => string {
  let text = ''
  stderr!.on('data', (piece: Buffer) => (text = (text + piece.toString()).slice(-LONGEST_FAULT)))
  return () => /^(?:\w*(?:Error|Fault)): (.*)$/m.exec(text)?.[1] ?? ''
}
