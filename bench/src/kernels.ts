/** ./tangle bench --kernels: our kernels against the same loops in C++ (bench/native), on one thread, in turn. */
import { buildGrid } from '@tangle/core'
import { createMachine, layouts } from '@tangle/kernels'
import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'

const COUNT = 200_000
const ROUNDS = 3
const RUNS = 15
/** What each may cost at the most, as a multiple of C++. */
const LIMITS: Record<string, number> = {
  curlNoise: 0.8,
  motion: 2,
  startForces: 1.2,
  amounts: 1.2,
  neighbours: 1,
}

/** Nanoseconds per particle of the native loops by their names. */
function nativeTimes(program: string): Map<string, number> {
  const text = execFileSync(program, [String(COUNT)], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'ignore'],
  })
  return new Map(text.trim().split('\n').map((line) => [line.split(' ')[0]!, Number(line.split(' ')[1])])) // prettier-ignore
}

/** The same work by our kernels, laid out once. */
function ourWork(): Map<string, () => void> {
  const machine = createMachine()
  const { heap } = machine
  const column = (width: number, of: (k: number) => number): number => {
    const pointer = heap.allocate(COUNT * width * 4)
    const values = heap.f32(pointer, COUNT * width)
    for (let k = 0; k < values.length; k++) values[k] = of(k)
    return pointer
  }
  // evenly strewn: no sequence is needed beyond what is irrational
  const strewn = (low: number, high: number) => (k: number) => low + (high - low) * ((k * 0.618034) % 1)
  const [position, velocity] = [column(3, strewn(-2, 2)), column(3, strewn(-0.5, 0.5))]
  const [acceleration, startPosition] = [column(3, () => 0), column(3, () => 0)]
  const [amount, damping, source] = [column(1, () => 1), column(1, () => 0.5), column(1, strewn(0, 1))]
  const [age, phaseAge, travelled] = [column(1, () => 1), column(1, () => 1), column(1, () => 0)]
  const [phase, h] = [column(1, () => 0), 0.01]
  const gradients = column(1, strewn(-1, 1))
  const [even, weights, keys] = [heap.allocate(64), heap.allocate(64), heap.allocate(256)]
  heap.f32(even, 16).fill(0.1)
  heap.f32(weights, 4).fill(1)
  const { SIZE } = layouts.curveKey
  for (let k = 0; k < 5; k++) heap.f32(keys, 5 * SIZE).set([k * 0.25, k, 1, 4], k * SIZE)
  // the sequence of the plastic number in three dimensions: no two axes go together
  const place = (k: number): number => 4 * ((Math.floor(k / 3) / 1.220744 ** ((k % 3) + 1)) % 1) - 2
  const strewnAnywhere = column(3, place)
  // seven share a cell
  const reach = Math.cbrt((64 * 7) / COUNT)
  const [ones, counts] = [column(1, () => 1), column(1, () => 0)]
  const crowd = { count: COUNT, position: strewnAnywhere, radius: ones, velocity }
  const noise = { tableBytes: 4096, octaves: 3, frequency: 1, amplitude: 1, offset: 0.5 }
  const motion = { position, startPosition, velocity, age, h }
  return new Map([
    [
      'curlNoise',
      () => machine.run('curlNoise', COUNT, { amount, acceleration, position, gradients, ...noise }),
    ],
    [
      'motion',
      () => {
        machine.run('drift', COUNT, { ...motion, startVelocity: 0 })
        const kept = { acceleration, damping, stiffness: 0, phaseAge, travelled, speedLimit: 1e6 }
        machine.run('integrate', COUNT, { ...motion, ...kept })
      },
    ],
    [
      'startForces',
      () =>
        machine.run('startForces', COUNT, { phase, phases: 1, even, acceleration, damping, stiffness: 0 }),
    ],
    [
      'amounts',
      () => {
        machine.run('weigh', COUNT, { phase, weights, amount })
        machine.run('respond', COUNT, { source, keys, count: 5, amount })
      },
    ],
    [
      'neighbours',
      () => {
        const grid = buildGrid(machine, crowd, reach, layouts.MOST_NEIGHBOURS)
        machine.run('countNeighbours', COUNT, { cells: grid.at, reach, out: counts })
        grid.free()
      },
    ],
  ])
}

const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!

function timeOf(work: () => void): number {
  const times = Array.from({ length: RUNS }, () => {
    const from = performance.now()
    work()
    return ((performance.now() - from) * 1e6) / COUNT
  })
  return median(times)
}

/** Our nanoseconds ÷ those of C++, by the kernel. */
export const kernelRatios = (root: string): Map<string, number> =>
  new Map(measureKernels(root).map(({ name, ratio }) => [name, ratio]))

/** Prints our nanoseconds, those of C++ and their ratio; returns the kernels that cost more than they may. */
export function compareWithNative(root: string): string[] {
  return measureKernels(root).flatMap(({ name, ratio, ours, native }) => {
    const limit = LIMITS[name]!
    const says = `${ours.toFixed(1)} ns : ${native.toFixed(1)} ns in C++`
    console.log(`${name.padEnd(14)} ${ratio.toFixed(2).padStart(6)} of at most ${limit}   ${says}`)
    return ratio > limit ? [name] : []
  })
}

function measureKernels(root: string): { name: string; ratio: number; ours: number; native: number }[] {
  const folder = mkdtempSync(join(tmpdir(), 'tangle-bench-'))
  const program = join(folder, 'kernels')
  const flags = ['-O3', '-march=native', '-ffast-math', '-fopenmp-simd', '-o', program]
  const built = spawnSync('g++', [...flags, join(root, 'bench/native/kernels.cc')], { encoding: 'utf8' })
  if (built.status !== 0)
    throw new Error(`g++ is needed to build bench/native: ${built.error?.message ?? built.stderr}`)
  const work = ourWork()
  const rounds = Array.from({ length: ROUNDS }, () => ({
    ours: new Map([...work].map(([name, run]) => [name, timeOf(run)])),
    native: nativeTimes(program),
  }))
  rmSync(folder, { recursive: true })
  return Object.keys(LIMITS).map((name) => ({
    name,
    ours: median(rounds.map(({ ours }) => ours.get(name)!)),
    native: median(rounds.map(({ native }) => native.get(name)!)),
    ratio: median(rounds.map(({ ours, native }) => ours.get(name)! / native.get(name)!)),
  }))
}
