import type { Heap } from './heap.ts'

/** The exported kernels, in the order by which threads name them to one another. */
export const KERNELS = [
  'drift',
  'integrate',
  'fill',
  'weigh',
  'respond',
  'remap',
  'accelerate',
  'dampLinear',
  'dampQuadratic',
  'blow',
  'stir',
  'churn',
  'curlAt',
  'maskBall',
  'maskSlab',
  'maskBox',
  'maskDistance',
  'maskNoise',
  'maskCells',
  'noiseAt',
  'maskFront',
  'maskArrival',
  'maskMix',
  'sampleSurface',
  'linear',
  'transformPoints',
  'rippleMesh',
  'wrinkleMesh',
  'anchorPoints',
  'ride',
  'memberPoints',
  'goalDistances',
  'seek',
  'arrive',
  'settle',
  'blend',
  'pull',
  'nearestOnPath',
  'whirl',
  'wander',
  'limit',
  'cellKeys',
  'gatherCells',
  'countNeighbours',
  'namedNeighbours',
  'overlaps',
  'flock',
  'avoid',
  'avoidSurface',
  'stepAside',
  'stepOff',
  'applyShift',
  'attractMutually',
  'calm',
  'feet',
  'holdOn',
  'carry',
  'surfaceWays',
  'march',
  'stepsAlong',
  'sortCells',
  'pushOf',
  'resize',
  'fadeTo',
  'tint',
  'spinBy',
  'drawRandoms',
  'scatterSurface',
  'closestPoints',
  'windingNumbers',
  'hashWords',
  'exponentialDecay',
  'philoxWords',
  'philoxWord',
] as const

export type KernelName = (typeof KERNELS)[number]
export type Kernels = Record<KernelName, (...values: number[]) => number>

/**
 * What the core computes on: a heap and a way to run kernels over it. A kernel that runs over a
 * range takes (start, end, …arguments, thread); each element writes only to itself, so the result
 * does not depend on how many threads share the range.
 */
export interface Machine {
  readonly heap: Heap
  readonly threads: number
  /** Runs a range kernel over 0…count, on all threads; returns when all are done. */
  run(kernel: KernelName, count: number, ...values: number[]): void
  /** Calls a kernel once, on this thread. */
  call(kernel: KernelName, ...values: number[]): number
}

/** Most threads a machine may have; kernels with scratch keep room for as many. */
export const MOST_THREADS = 16
