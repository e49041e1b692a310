/** The command line as it is called, with a folder of its own for the tests of a file. */
import { execFile } from 'node:child_process'
import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

export const folder = await mkdtemp(join(tmpdir(), 'tangle-'))
afterAll(() => rm(folder, { recursive: true, force: true }))

export function tangle(...args: string[]): Promise<{ code: number; out: string; err: string }> {
  return new Promise((resolve) => {
    execFile('node', ['.build/cli.mjs', ...args], { maxBuffer: 1 << 26 }, (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    )
  })
}
export const shot = (change: object = {}) => ({
  format: 'tangle-shot',
  version: 1,
  name: 'Prism',
  frames: { first: 1, last: 12, rate: 24 },
  meshes: [{ id: 'm', source: { file: 'prism.obj' } }],
  populations: [
    {
      id: 'dust',
      births: [{ id: 'b', kind: 'surface', mesh: 'm', into: 'Loose', amount: { rate: 480 }, speed: 1 }],
    },
  ],
  ...change,
})
export async function write(name: string, content: unknown): Promise<string> {
  const path = join(folder, name)
  await writeFile(path, typeof content === 'string' ? content : JSON.stringify(content))
  return path
}
export const prism = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n'
