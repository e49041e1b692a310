/**
 * Threads over one memory. The lead cuts the range of a kernel into small parts. Each thread has a share of them that lie side by side,
 * the same one from kernel to kernel, so that what it wrote is still in its cache; who is done with its own takes from the others, so
 * that a cluster of work leaves nobody idle. Every part is a plain loop that writes only its own elements: the bytes are
 * the same with any number of threads. A kernel may go over several phases: a thread goes on to the next one when all parts of this one
 * are taken, and waits until they are done. Words of the control block (i32, from byte 0 of the memory):
 *
 *   0 kernel · 1 number of phases · 2 number of arguments · 3 parts in all · 4 quit
 *   5 generation: counts the kernels that were handed out; helpers wait on it
 *   6 parts that are done · 7 a helper trapped · 8 threads that have a share · 9 threads asleep until parts are done
 *   16 + t  ready: thread t has its kernels
 *   32 + t  ticket of thread t: the generation in its upper 20 bits, how many parts of its share are taken in its lower 12
 *
 * Arguments are f64 from byte 512, phases from byte 1,024: the first part of each, its range, and the elements of a part (i32).
 * A helper first reads them and then takes a part by exchanging a ticket. The lead closes the tickets of a generation before it
 * writes the arguments of the next: whose exchange succeeds has read what belongs to it.
 *
 * Measured (Xeon 2.5 GHz, two cores): work clustered in one half 21–28 ms in halves, 12.8 in parts that are taken in turn; a line of
 * memory that the other core wrote last takes some 120 ns to come.
 */
import {
  createHeap,
  inOrder,
  instantiate,
  Interrupted,
  KERNELS,
  MOST_THREADS,
  type KernelName,
  type Kernels,
  type Machine,
  type Phase,
} from '@tangle/kernels'

const [KERNEL, PHASES, ARGUMENTS, PARTS, QUIT, GENERATION, DONE, TRAPPED, THREADS, ASLEEP] = [
  0, 1, 2, 3, 4, 5, 6, 7, 8, 9,
]
const [READY, TICKETS] = [16, 32]
const ARGUMENT_BYTES = 512
const PHASE_BYTES = 1024
/** Phases that are handed out at once. */
const MOST_PHASES = 192
/** Words of a phase: its first part, where it begins and ends, and the elements of a part; the first of them, and how many. */
const [FIRST_PART, PHASE] = [0, 4]
/** Elements of which it pays to share the work: some sixty microseconds. To hand a kernel out takes ten to thirty. */
const LEAST_SHARED = 16_384
/** Elements that one takes at a time: many parts even out, fewer cost less; a multiple of the lanes of a kernel. */
const LEAST_PART = 1024
/** Phases of fewer elements on average are not worth that threads wait for one another after each. */
const LEAST_PHASE = 1536
const PARTS_PER_THREAD = 16
/** Of each of several phases: they are short, and a part costs half a microsecond beside its work. */
const PARTS_OF_PHASE = 2
const MOST_PARTS = 0xffe
const CLOSED = 0xfff
/**
 * Elements that cost as much as so many plain ones (some four nanoseconds) do, measured: parts of them are smaller, and shared sooner. From
 * FEW on an element is none of the particles that lanes take by fours.
 */
const WEIGHTS: Partial<Record<KernelName, number>> = {
  integrate: 4,
  blow: 4,
  respond: 3,
  tint: 5,
  tumble: 8,
  anchorPoints: 6,
  ride: 8,
  sampleSurface: 8,
  goalDistances: 8,
  linkEnds: 6,
  strainSteps: 10,
  drawRandoms: 12,
  maskNoise: 12,
  maskCells: 12,
  wrinkleMesh: 12,
  curlNoise: 15,
  cellularCurl: 15,
  curlAt: 15,
  stepOff: 64,
  scatterSurface: 32,
  surfaceWays: 64,
  projectToSurface: 32,
  holdToSurface: 32,
  march: 128,
  cutLinks: 128,
  markCrowded: 8,
  weighCrowds: 64,
  countNear: 128,
  listNear: 128,
  calm: 256,
  crowding: 256,
  attractToOthers: 256,
  avoidSurface: 128,
  stepAside: 256,
  startSteps: 16,
  updateSleep: 15,
  fitLeaves: 16,
  preventTunnelling: 64,
  findContactPlanes: 64,
  signDistances: 64,
  solvePlanes: 32,
  depenetratePlanes: 16,
  solvePlaneVelocities: 16,
  startPlanes: 64,
  followPaths: 32,
  turnImpulses: 64,
  solvePaths: 128,
  sweepCollide: 128,
  closestPoints: 128,
  windingNumbers: 256,
  overlaps: 256,
  listPairs: 256,
  countNeighbours: 256,
  namedNeighbours: 256,
  flock: 256,
  attractMutually: 256,
  avoid: 256,
  hashChunks: 1024,
  countPairs: 1024,
  countBearing: 5,
  storeBearing: 5,
  wakePairs: 5,
  warmStartPairs: 8,
  finishPairs: 16,
  depenetratePairs: 20,
  solvePairVelocities: 20,
  solvePairs: 24,
  startPairs: 40,
  layPairs: 16384,
  batchPairs: 16384,
}
const FEW = 16
/** Weighted elements after which one thread alone looks whether it is to leave off: some four milliseconds. */
const UNINTERRUPTED = 2 ** 20
/** Looks at the control block before a thread is sent to sleep: some tens of microseconds; more would take a core from the page. */
const SPINS = 3_000
const PATIENCE = 60_000 // milliseconds for the parts of one kernel that others took

const controlOf = (memory: WebAssembly.Memory): Int32Array<SharedArrayBuffer> =>
  new Int32Array(memory.buffer as unknown as SharedArrayBuffer, 0, 64)
const phasesOf = (memory: WebAssembly.Memory): Int32Array =>
  new Int32Array(memory.buffer, PHASE_BYTES, MOST_PHASES * PHASE)
const argumentsOf = (memory: WebAssembly.Memory): Float64Array =>
  new Float64Array(memory.buffer, ARGUMENT_BYTES, 32)

/** A range in parts: elements of each, of particles a multiple of four, and how many there are. */
function partsOf(
  { count, content = count }: Phase,
  threads: number,
  weight: number,
  phases: number,
): { size: number; parts: number } {
  const own = Math.max(1, (weight * content) / count)
  const each = phases > 3 ? PARTS_OF_PHASE : PARTS_PER_THREAD
  const wanted = Math.max(
    LEAST_PART / own,
    count / (threads * each),
    (count * phases) / (MOST_PARTS - phases),
  )
  const size = own < FEW ? 4 * Math.ceil(wanted / 4) : Math.ceil(wanted)
  return { size, parts: Math.ceil(count / size) }
}

const ticketOf = (generation: number, taken: number): number => (generation << 12) | taken

/** The first of so many parts that is in the share of a thread, or, of the one after the last, their end. */
const shareFrom = (parts: number, thread: number, threads: number): number =>
  Math.floor((parts * thread) / threads)

/** What a thread works with. */
interface Bench {
  kernels: Kernels
  control: Int32Array
  phases: Int32Array
}

/** Takes the next part of a share of which fewer than `end` are taken. Returns its number in the share; −1: none is left; null: the tickets are closed. */
function take(control: Int32Array, owner: number, generation: number, end: number): number | null {
  for (;;) {
    const ticket = Atomics.load(control, TICKETS + owner)
    const taken = ticket & CLOSED
    if (taken === CLOSED || ticket !== ticketOf(generation, taken)) return null
    if (taken >= end) return -1
    if (Atomics.compareExchange(control, TICKETS + owner, ticket, ticket + 1) === ticket) return taken
  }
}

/** Takes parts of a generation until none is left or `stopped` says so. Returns what a kernel threw. */
function work(
  { kernels, control, phases }: Bench,
  generation: number,
  thread: number,
  values: number[],
  stopped = (): boolean => false,
): unknown {
  const [count, all, threads] = [control[PHASES]!, control[PARTS]!, control[THREADS]!]
  const run = kernels[KERNELS[control[KERNEL]!]!]
  const before = new Array<number>(threads).fill(0)
  let failure: unknown
  for (let phase = 0; phase < count; phase++) {
    const at = phase * PHASE
    const [first, begin, end, size] = [0, 1, 2, 3].map((word) => phases[at + word]!) as [number, number, number, number] // prettier-ignore
    const parts = (phase + 1 < count ? phases[at + PHASE + FIRST_PART]! : all) - first
    for (let k = 0; k < threads; k++) {
      const owner = (thread + k) % threads
      const share = shareFrom(parts, owner, threads)
      const to = before[owner]! + shareFrom(parts, owner + 1, threads) - share
      for (;;) {
        if (stopped()) return failure
        const part = take(control, owner, generation, to)
        if (part === null) return failure
        if (part < 0) break
        const from = begin + (share + part - before[owner]!) * size
        try {
          awaitParts(control, first)
          run(from, Math.min(end, from + size), ...values, thread)
        } catch (error) {
          failure ??= error
          Atomics.store(control, TRAPPED, 1)
        }
        Atomics.add(control, DONE, 1)
        if (Atomics.load(control, ASLEEP) > 0) Atomics.notify(control, DONE)
      }
      before[owner] = to
    }
  }
  return failure
}

/** Waits until so many parts are done. */
function awaitParts(control: Int32Array, parts: number): void {
  for (let spin = 0; spin < SPINS; spin++) if (Atomics.load(control, DONE) >= parts) return
  const from = Date.now()
  for (;;) {
    const done = Atomics.load(control, DONE)
    if (done >= parts) return
    if (Date.now() - from > PATIENCE) throw new Error('A thread does not answer')
    Atomics.add(control, ASLEEP, 1)
    Atomics.wait(control, DONE, done, 100)
    Atomics.sub(control, ASLEEP, 1)
  }
}

export interface Pool extends Machine {
  /** Ends the helper threads. */
  dispose(): void
}

/**
 * The lead's side. `spawn` starts a helper thread that calls `help(memory, thread)`. Kernels throw `Interrupted` within some
 * milliseconds of `stopped` saying so.
 */
export function createPool(
  memory: WebAssembly.Memory,
  threads: number,
  spawn: (thread: number) => void,
  stopped = (): boolean => false,
): Pool {
  const bench = benchOf(memory)
  const { kernels, control, phases: table } = bench
  const args = argumentsOf(memory)
  const helpers = Math.min(threads, MOST_THREADS) - 1
  let generation = 0
  for (let t = 1; t <= helpers; t++) spawn(t)

  const anybodyReady = (): boolean => {
    for (let t = 1; t <= helpers; t++) if (Atomics.load(control, READY + t) === 1) return true
    return false
  }

  function runParallel(kernel: KernelName, phases: Phase[], values: number[]): void {
    for (let t = 0; t <= helpers; t++) Atomics.store(control, TICKETS + t, ticketOf(generation, CLOSED))
    generation = (generation + 1) | 0
    let parts = 0
    phases.forEach((phase, n) => {
      const { from, count } = phase
      const cut = partsOf(phase, helpers + 1, WEIGHTS[kernel] ?? 1, phases.length)
      table.set([parts, from, from + count, cut.size], n * PHASE)
      parts += cut.parts
    })
    control[KERNEL] = KERNELS.indexOf(kernel)
    control[PHASES] = phases.length
    control[ARGUMENTS] = values.length
    control[PARTS] = parts
    control[THREADS] = helpers + 1
    args.set(values)
    Atomics.store(control, DONE, 0)
    for (let t = 0; t <= helpers; t++) Atomics.store(control, TICKETS + t, ticketOf(generation, 0))
    Atomics.store(control, GENERATION, generation)
    Atomics.notify(control, GENERATION)
    const failure = work(bench, generation, 0, values, stopped)
    // parts that are left over when it was stopped nobody takes any more
    let taken = 0
    for (let t = 0; t <= helpers; t++)
      taken += Atomics.exchange(control, TICKETS + t, ticketOf(generation, CLOSED)) & CLOSED
    awaitParts(control, taken)
    if (Atomics.exchange(control, TRAPPED, 0) === 1) throw failure ?? new Error('A thread failed in a kernel')
  }

  const leaveOffIfStopped = (): void => {
    if (stopped()) throw new Interrupted()
  }

  function runAlone(kernel: KernelName, { from, count }: Phase, ordered: number[]): void {
    const size = Math.max(4, 4 * Math.floor(UNINTERRUPTED / (WEIGHTS[kernel] ?? 1) / 4))
    for (let at = from; at < from + count; at += size) {
      leaveOffIfStopped()
      kernels[kernel](at, Math.min(from + count, at + size), ...ordered, 0)
    }
  }

  function runPhases(kernel: KernelName, phases: Phase[], ordered: number[]): void {
    const weight = WEIGHTS[kernel] ?? 1
    const work = phases.reduce((sum, { count, content = count }) => sum + content * weight, 0)
    const shared = work >= LEAST_SHARED && work >= phases.length * LEAST_PHASE
    if (!shared || !anybodyReady()) for (const phase of phases) runAlone(kernel, phase, ordered)
    else
      for (let n = 0; n < phases.length; n += MOST_PHASES)
        runParallel(kernel, phases.slice(n, n + MOST_PHASES), ordered)
    leaveOffIfStopped()
  }

  return {
    heap: createHeap(memory),
    threads: helpers + 1,
    run(kernel, count, values) {
      if (count > 0) runPhases(kernel, [{ from: 0, count }], inOrder(kernel, values))
    },
    runPhases: (kernel, phases, values) => runPhases(kernel, phases, inOrder(kernel, values)),
    call: (kernel, values) => kernels[kernel](...inOrder(kernel, values)),
    dispose() {
      Atomics.store(control, QUIT, 1)
      Atomics.add(control, GENERATION, 1)
      Atomics.notify(control, GENERATION)
    },
  }
}

const benchOf = (memory: WebAssembly.Memory): Bench => ({
  kernels: instantiate(memory),
  control: controlOf(memory),
  phases: phasesOf(memory),
})

/** A helper's side: works until the lead ends it. Blocks its thread. */
export function help(memory: WebAssembly.Memory, thread: number): void {
  const bench = benchOf(memory)
  const { control } = bench
  const args = argumentsOf(memory)
  let seen = Atomics.load(control, GENERATION)
  Atomics.store(control, READY + thread, 1)
  for (;;) {
    for (let spin = 0; spin < SPINS; spin++) if (Atomics.load(control, GENERATION) !== seen) break
    Atomics.wait(control, GENERATION, seen)
    if (Atomics.load(control, QUIT) === 1) return
    seen = Atomics.load(control, GENERATION)
    work(bench, seen, thread, Array.from(args.subarray(0, control[ARGUMENTS])))
  }
}
