/**
 * This program against another built copy of it, such as the commit before: the demo shots in turn, each frame's
 * milliseconds added up, the median ratio of several rounds. The copy needs nothing but `./tangle bench` once.
 */
import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join, resolve } from 'node:path'

const ROUNDS = 5
/** Slower than this is a step back. */
const LIMIT = 1.05

/** Milliseconds of all frames of a demo shot, computed by the copy of Tangle in a folder. */
export function costOfShot(folder: string, shot: string): number {
  const cli = join(folder, '.build/cli.mjs')
  const asked = ['bake', `demo:${shot}`, '--frames', '1-40', '--share', '0.1', '--threads', '1', '--json']
  const { stdout, stderr, status } = spawnSync(process.execPath, [cli, ...asked], { encoding: 'utf8', maxBuffer: 2 ** 28 }) // prettier-ignore
  if (status !== 0) throw new Error(`${cli} does not compute ${shot}: ${stderr.slice(0, 300)}`)
  return stdout
    .split('\n')
    .filter((line) => line.startsWith('{'))
    .map((line) => JSON.parse(line) as { frame?: number; milliseconds?: number })
    .reduce((sum, { frame, milliseconds }) => sum + (frame === undefined ? 0 : (milliseconds ?? 0)), 0)
}

const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!

/** Prints old and new milliseconds and their ratio for every demo shot; says which are slower than the limit. */
export function compareWith(other: string, shots: string[]): void {
  const [old, now] = [resolve(other), process.cwd()]
  if (!existsSync(join(old, '.build/cli.mjs')))
    throw new Error(`${old} has not been built: run ./tangle bench there first`)
  const slower: string[] = []
  for (const shot of shots) {
    const pairs = Array.from(
      { length: ROUNDS },
      () => [costOfShot(old, shot), costOfShot(now, shot)] as const,
    )
    const ratio = median(pairs.map(([a, b]) => b / a))
    const [before, after] = [median(pairs.map(([a]) => a)), median(pairs.map(([, b]) => b))]
    console.log(
      `${shot.padEnd(28)} ${ratio.toFixed(2)}   ${before.toFixed(0).padStart(6)} → ${after.toFixed(0)} ms`,
    )
    if (ratio > LIMIT) slower.push(shot)
  }
  console.log(
    slower.length > 0 ? `Slower than ${LIMIT}: ${slower.join(', ')}` : `None is slower than ${LIMIT}`,
  )
}
