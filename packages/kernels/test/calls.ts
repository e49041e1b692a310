/** Calls of every kernel over blocks of numbers, for comparing its two forms. */
import type { KernelName } from '../src/machine.ts'

export const COUNT = 64
const BLOCK = 16384
export const block = (n: number): number => 4096 + n * BLOCK

/** By what they are about; the numbers in the blocks are set by the test. */
export const CALLS: Record<string, (run: (kernel: KernelName, ...values: number[]) => void) => void> = {
  integrate: (run) => {
    const state = [block(0), block(1), block(2)]
    run('drift', 0, COUNT, ...state, block(3), block(5), 1 / 48)
    const forces = [block(3), block(4), block(5)]
    run('integrate', 0, COUNT, ...state, ...forces, block(5), block(6), block(7), 1 / 48, 20)
  },
  forces: (run) => {
    run('accelerate', 0, COUNT, block(12), block(3), 0.1, -9.8, 0.3)
    run('dampLinear', 0, COUNT, block(5), block(4))
    run('dampQuadratic', 0, COUNT, block(5), block(4), block(2), block(5), block(6), 0.7)
    run(
      'blow',
      0,
      COUNT,
      block(12),
      block(3),
      block(4),
      block(0),
      3,
      0,
      1,
      block(5),
      0.4,
      block(10),
      0.3,
      0.5,
    )
    run('churn', 0, COUNT, block(12), block(3), block(0), block(10), block(11), 0.7, 1.1)
    run('stir', 0, COUNT, block(12), block(3), block(0), block(10), 9216, 1, 0.7, 1.1, 0.5)
  },
  amounts: (run) => {
    run('weigh', 0, COUNT, block(8), block(9), block(12))
    run('respond', 0, COUNT, block(0), block(14), 3, block(12))
    run('remap', 0, COUNT, block(1), block(14), 3, block(2))
    run('linear', 0, COUNT, block(2), block(3), -1, 1)
  },
  masks: (run) => {
    run('maskBall', 0, COUNT, block(0), block(1), 1, 2, 3, 10, 20)
    run('maskSlab', 0, COUNT, block(0), block(2), 1, 2, 3, 0.6, 0, 0.8, 9, 12)
    run('maskBox', 0, COUNT, block(0), block(3), block(9), 5, 6, 7, 4)
    run('maskNoise', 0, COUNT, block(0), block(4), block(10), 6144, 2, 0.7, 1.5, 0.4)
    run('maskCells', 0, COUNT, block(0), block(5), block(10), 0.3, 2, 0.5)
    run('noiseAt', 0, COUNT, block(0), block(6), block(10), 6144, 2, 0.7)
    run('maskDistance', 0, COUNT, block(0), block(7), 1, 3)
    run('maskFront', 0, COUNT, block(4), block(12), 0.5, 0.3)
    run('maskArrival', 0, COUNT, block(0), block(13), 4, 9)
    run('maskMix', 0, COUNT, block(1), block(2), block(3), 3)
    run('sampleSurface', 0, COUNT, block(8), 2, 1, block(0), 3, block(15), block(1), block(2))
  },
  bodies: (run) => {
    run('transformPoints', 0, COUNT, block(0), block(1), block(9))
    run('rippleMesh', 0, COUNT, block(1), block(0), block(2), 0.3, 0.8, 1.7, 0.6, 0.8, 0)
    run('wrinkleMesh', 0, COUNT, block(1), block(0), block(2), 0.3, block(10), 0.8)
    run('anchorPoints', 0, COUNT, 1, block(8), block(0), block(1), block(15), block(9), block(3))
    run(
      'ride',
      0,
      COUNT,
      block(8),
      block(16),
      block(0),
      block(1),
      block(5),
      block(2),
      block(3),
      0.02,
      0.48,
      0.7,
    )
  },
  goals: (run) => {
    const [h, from, to] = [0.02, block(2), block(3)]
    run('memberPoints', 0, COUNT, 1, block(8), block(8), 30, block(0), block(1), 0.5, block(13))
    run('goalDistances', 0, COUNT, block(8), block(0), from, block(13))
    run('seek', 0, COUNT, block(16), block(8), from, to, h, block(0), block(10), block(4), 2, block(16))
    run(
      'arrive',
      0,
      COUNT,
      block(16),
      block(8),
      from,
      to,
      h,
      block(0),
      block(1),
      block(10),
      block(4),
      block(5),
      2,
      block(16),
      30,
    )
    run('settle', 0, COUNT, block(8), block(16), block(0), block(13), block(1), block(10), from, to, h, 3, 60)
    run('blend', 0, COUNT, block(8), block(16), block(0), block(13), block(1), from, to, h)
  },
  steering: (run) => {
    run('nearestOnPath', 0, COUNT, block(0), block(2), 5, block(13))
    for (const code of [0, 1, 2, 3, 4])
      run('pull', 0, COUNT, block(16), block(10), block(0), block(13), 3, code, 40, 8)
    run('whirl', 0, COUNT, block(16), block(10), block(4), block(0), 1, 2, 3, 0.6, 0, 0.8, 12, 3, 1, 0.5, 40)
    run('wander', 0, COUNT, block(16), block(8), block(10), 1.7, 1.3, 0, 42, 17)
    run(
      'limit',
      0,
      COUNT,
      block(16),
      block(0),
      block(1),
      block(2),
      block(3),
      0.02,
      30,
      5,
      0.9,
      0.43,
      block(16),
    )
  },
  swarm: (run) => {
    const grid = block(20)
    run('cellKeys', 0, COUNT, block(0), 0.05, 63, block(24))
    run('sortCells', COUNT, block(24), 64, block(21), block(22))
    run('gatherCells', 0, COUNT, block(22), block(0), block(5), block(2), block(23))
    run('countNeighbours', 0, COUNT, block(0), block(16), grid, 10, block(13))
    run('namedNeighbours', 0, COUNT, block(0), grid, 20, 3, block(26))
    run('overlaps', 0, COUNT, block(0), block(16), grid, 5, block(26), block(27), block(28), 0, 0)
    const motion = [block(0), block(1), block(2), block(10), block(4), block(5)]
    run('flock', 0, COUNT, block(16), grid, ...motion, 20, 9, 4, 0.2, 1, 2, 3, block(16), 0, block(16))
    run('avoid', 0, COUNT, block(16), grid, block(0), block(2), block(16), block(10), 20, 8, 1.1, 3, 15, 0)
    run(
      'avoidSurface',
      0,
      COUNT,
      block(16),
      block(0),
      block(2),
      block(16),
      block(10),
      block(1),
      block(3),
      block(4),
      40,
      1,
      3,
      15,
      1,
    )
    run(
      'stepAside',
      0,
      COUNT,
      block(16),
      grid,
      block(0),
      block(2),
      block(16),
      5,
      1,
      0.7,
      0,
      block(26),
      block(27),
    )
    run('applyShift', 0, COUNT, block(0), block(2), block(26), block(27))
    run('stepOff', 0, COUNT, block(16), block(0), block(2), block(16), block(10), block(1), block(5), 0.7, 0)
    run('attractMutually', 0, COUNT, block(16), grid, block(0), block(10), 8, 20, 8, 3, 2, block(16), 0)
    run('calm', 0, COUNT, block(16), grid, block(0), block(10), block(4), 20, 8)
  },
  surfaces: (run) => {
    run('feet', 0, COUNT, block(18), block(0), block(1), block(2), block(15), 0.02, block(3), block(13))
    run('carry', 0, COUNT, block(16), block(0), block(1), block(10), block(4), block(13), 30, 0.02)
    run(
      'surfaceWays',
      0,
      COUNT,
      block(18),
      block(3),
      block(2),
      block(15),
      block(10),
      0,
      0,
      0,
      0,
      -1,
      block(26),
    )
    run(
      'surfaceWays',
      0,
      COUNT,
      block(18),
      block(3),
      block(2),
      block(15),
      block(10),
      2,
      1,
      2,
      3,
      1,
      block(27),
    )
    run('stepsAlong', 0, COUNT, block(0), block(26), block(3), 0.1, block(28), block(29))
    run(
      'march',
      0,
      COUNT,
      block(16),
      block(26),
      block(3),
      block(13),
      block(4),
      30,
      block(10),
      block(5),
      2,
      block(16),
      block(16),
      block(6),
      block(4),
      0.1,
    )
    run(
      'holdOn',
      0,
      COUNT,
      block(16),
      block(0),
      block(1),
      block(2),
      block(4),
      block(3),
      block(13),
      0.2,
      block(16),
      30,
      0.48,
    )
  },
  changes: (run) => {
    run('resize', 0, COUNT, block(16), block(4), block(5), block(6), 0.8, block(16))
    run('fadeTo', 0, COUNT, block(16), block(1), 0.8, block(16))
    run('tint', 0, COUNT, block(16), block(1), block(17), 0.5, block(16), 1, 0.9, 0.8)
    run('spinBy', 0, COUNT, block(16), block(2), block(3), 0.4, block(16))
    run(
      'tumble',
      0,
      COUNT,
      block(16),
      block(2),
      block(6),
      block(7),
      block(8),
      block(3),
      block(16),
      block(5),
      0.4,
      0.9,
      0.04,
    )
    run('faceTo', 0, COUNT, block(16), block(2), block(3), 0.4, 0)
    run('faceTo', 0, COUNT, block(16), block(2), block(6), 0.4, 1)
  },
  scatter: (run) => {
    run('drawRandoms', 0, COUNT, block(0), 42, 3, 1, block(1))
    run('scatterSurface', 0, COUNT, block(0), 42, 5, block(9), 8, block(2), block(3), block(4))
  },
}
