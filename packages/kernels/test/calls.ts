/** Calls of every kernel over blocks of numbers, for comparing its two forms. */
import type { Arguments, KernelName } from '../src/machine.ts'

export type Run = <K extends KernelName>(kernel: K, count: number, values: Arguments<K>) => void

export const COUNT = 64
const BLOCK = 16384
export const block = (n: number): number => 4096 + n * BLOCK

/** By what they are about; the numbers in the blocks are set by the test. */
export const CALLS: Record<string, (run: Run) => void> = {
  integrate: (run) => {
    run('drift', COUNT, {
      position: block(0),
      startPosition: block(1),
      velocity: block(2),
      startVelocity: block(3),
      age: block(5),
      h: 1 / 48,
    })
    run('integrate', COUNT, {
      position: block(0),
      startPosition: block(1),
      velocity: block(2),
      acceleration: block(3),
      damping: block(4),
      stiffness: block(5),
      age: block(5),
      phaseAge: block(6),
      travelled: block(7),
      h: 1 / 48,
      speedLimit: 20,
    })
  },
  forces: (run) => {
    run('accelerate', COUNT, { amount: block(12), acceleration: block(3), ax: 0.1, ay: -9.8, az: 0.3 })
    run('dampLinear', COUNT, { amount: block(5), damping: block(4) })
    run('dampQuadratic', COUNT, {
      amount: block(5),
      damping: block(4),
      velocity: block(2),
      radius: block(5),
      inverseMass: block(6),
      half: 0.7,
    })
    run('blow', COUNT, {
      amount: block(12),
      acceleration: block(3),
      damping: block(4),
      position: block(0),
      ux: 3,
      uy: 0,
      uz: 1,
      speeds: block(5),
      gust: 0.4,
      gradients: block(10),
      frequency: 0.3,
      offset: 0.5,
    })
    run('cellularCurl', COUNT, {
      amount: block(12),
      acceleration: block(3),
      position: block(0),
      table: block(10),
      axes: block(11),
      frequency: 0.7,
      amplitude: 1.1,
    })
    run('curlNoise', COUNT, {
      amount: block(12),
      acceleration: block(3),
      position: block(0),
      gradients: block(10),
      tableBytes: 9216,
      octaves: 1,
      frequency: 0.7,
      amplitude: 1.1,
      offset: 0.5,
    })
  },
  amounts: (run) => {
    run('weigh', COUNT, { phase: block(8), weights: block(9), amount: block(12) })
    run('respond', COUNT, { source: block(0), keys: block(14), count: 3, amount: block(12) })
    run('remap', COUNT, { input: block(1), keys: block(14), count: 3, out: block(2) })
    run('linear', COUNT, { input: block(2), out: block(3), scale: -1, offset: 1 })
  },
  masks: (run) => {
    run('maskBall', COUNT, { points: block(0), out: block(1), cx: 1, cy: 2, cz: 3, radius: 10, soft: 20 })
    run('maskSlab', COUNT, {
      points: block(0),
      out: block(2),
      cx: 1,
      cy: 2,
      cz: 3,
      nx: 0.6,
      ny: 0,
      nz: 0.8,
      soft: 9,
      thickness: 12,
    })
    run('maskBox', COUNT, { points: block(0), out: block(3), map: block(9), hx: 5, hy: 6, hz: 7, soft: 4 })
    run('maskNoise', COUNT, {
      points: block(0),
      out: block(4),
      tables: block(10),
      tableBytes: 6144,
      octaves: 2,
      frequency: 0.7,
      contrast: 1.5,
      level: 0.4,
    })
    run('maskCells', COUNT, {
      points: block(0),
      out: block(5),
      table: block(10),
      frequency: 0.3,
      contrast: 2,
      level: 0.5,
    })
    run('noiseAt', COUNT, {
      points: block(0),
      out: block(6),
      tables: block(10),
      tableBytes: 6144,
      octaves: 2,
      frequency: 0.7,
    })
    run('maskDistance', COUNT, { distances: block(0), out: block(7), within: 1, soft: 3 })
    run('maskFront', COUNT, { input: block(4), out: block(12), level: 0.5, width: 0.3 })
    run('maskArrival', COUNT, { arrival: block(0), out: block(13), reach: 4, soft: 9 })
    run('maskMix', COUNT, { a: block(1), b: block(2), out: block(3), how: 3 })
    run('sampleSurface', COUNT, {
      triangle: block(8),
      stride: 2,
      first: 1,
      at: block(0),
      atStride: 3,
      triangles: block(15),
      values: block(1),
      out: block(2),
    })
  },
  bodies: (run) => {
    run('transformPoints', COUNT, { points: block(0), out: block(1), map: block(9) })
    run('rippleMesh', COUNT, {
      points: block(1),
      rest: block(0),
      normals: block(2),
      amount: 0.3,
      frequency: 0.8,
      turns: 1.7,
      dx: 0.6,
      dy: 0.8,
      dz: 0,
    })
    run('wrinkleMesh', COUNT, {
      points: block(1),
      rest: block(0),
      normals: block(2),
      amount: 0.3,
      table: block(10),
      frequency: 0.8,
    })
    run('anchorPoints', COUNT, {
      body: 1,
      anchor: block(8),
      anchorAt: block(0),
      positions: block(1),
      triangles: block(15),
      map: block(9),
      out: block(3),
    })
    run('ride', COUNT, {
      anchor: block(8),
      amount: block(16),
      position: block(0),
      velocity: block(1),
      travelled: block(5),
      from: block(2),
      to: block(3),
      h: 0.02,
      frames: 0.48,
      inherit: 0.7,
    })
  },
  goals: (run) => {
    const [h, from, to] = [0.02, block(2), block(3)]
    run('memberPoints', COUNT, {
      number: 1,
      goal: block(8),
      ids: block(8),
      count: 30,
      startPosition: block(0),
      position: block(1),
      part: 0.5,
      out: block(13),
    })
    run('goalDistances', COUNT, { goal: block(8), position: block(0), at: from, out: block(13) })
    run('seek', COUNT, {
      amount: block(16),
      goal: block(8),
      from,
      to,
      h,
      position: block(0),
      acceleration: block(10),
      damping: block(4),
      speed: 2,
      speedFactor: block(16),
    })
    run('arrive', COUNT, {
      amount: block(16),
      goal: block(8),
      from,
      to,
      h,
      startPosition: block(0),
      velocity: block(1),
      acceleration: block(10),
      damping: block(4),
      stiffness: block(5),
      speed: 2,
      speedFactor: block(16),
      slowing: 30,
    })
    run('settle', COUNT, {
      goal: block(8),
      amount: block(16),
      position: block(0),
      startPosition: block(13),
      velocity: block(1),
      startVelocity: block(10),
      from,
      to,
      h,
      rate: 3,
      within: 60,
    })
    run('blend', COUNT, {
      goal: block(8),
      amount: block(16),
      position: block(0),
      startPosition: block(13),
      velocity: block(1),
      home: from,
      at: to,
      h,
    })
  },
  steering: (run) => {
    run('nearestOnPath', COUNT, { position: block(0), path: block(2), count: 5, out: block(13) })
    for (const code of [0, 1, 2, 3, 4])
      run('attractTo', COUNT, {
        amount: block(16),
        acceleration: block(10),
        position: block(0),
        point: block(13),
        stride: 3,
        code,
        reach: 40,
        core: 8,
      })
    run('vortex', COUNT, {
      amount: block(16),
      acceleration: block(10),
      damping: block(4),
      position: block(0),
      cx: 1,
      cy: 2,
      cz: 3,
      dx: 0.6,
      dy: 0,
      dz: 0.8,
      core: 12,
      speed: 3,
      inward: 1,
      lift: 0.5,
      reach: 40,
    })
    run('wander', COUNT, {
      amount: block(16),
      ids: block(8),
      acceleration: block(10),
      time: 1.7,
      turns: 1.3,
      flat: 0,
      seed: 42,
      stream: 17,
    })
    run('limit', COUNT, {
      amount: block(16),
      position: block(0),
      startPosition: block(1),
      velocity: block(2),
      startVelocity: block(3),
      h: 0.02,
      most: 30,
      least: 5,
      cosine: 0.9,
      sine: 0.43,
      mostFactor: block(16),
    })
  },
  swarm: (run) => {
    const grid = block(20)
    run('cellKeys', COUNT, { position: block(0), perMetre: 0.05, mask: 63, keys: block(24) })
    run('sortCells', 1, { count: COUNT, keys: block(24), buckets: 64, first: block(21), order: block(22) })
    run('gatherCells', COUNT, {
      order: block(22),
      position: block(0),
      radius: block(5),
      velocity: block(2),
      entries: block(23),
    })
    run('countNeighbours', COUNT, {
      position: block(0),
      radius: block(16),
      cells: grid,
      reach: 10,
      out: block(13),
    })
    run('namedNeighbours', COUNT, { position: block(0), cells: grid, reach: 20, most: 3, out: block(26) })
    run('overlaps', COUNT, {
      position: block(0),
      radius: block(16),
      cells: grid,
      widest: 5,
      pairs: block(26),
      touching: block(27),
      depth: block(28),
      firsts: 0,
      linked: 0,
    })
    run('flock', COUNT, {
      amount: block(16),
      cells: grid,
      position: block(0),
      startPosition: block(1),
      velocity: block(2),
      acceleration: block(10),
      damping: block(4),
      stiffness: block(5),
      reach: 20,
      separate: 9,
      most: 4,
      view: 0.2,
      s: 1,
      a: 2,
      c: 3,
      sFactor: block(16),
      aFactor: 0,
      cFactor: block(16),
    })
    run('avoid', COUNT, {
      amount: block(16),
      cells: grid,
      position: block(0),
      velocity: block(2),
      radius: block(16),
      acceleration: block(10),
      reach: 20,
      most: 8,
      size: 1.1,
      horizon: 3,
      limit: 15,
      flat: 0,
    })
    run('avoidSurface', COUNT, {
      amount: block(16),
      position: block(0),
      velocity: block(2),
      radius: block(16),
      acceleration: block(10),
      point: block(1),
      surface: block(3),
      distance: block(4),
      reach: 40,
      size: 1,
      horizon: 3,
      limit: 15,
      flat: 1,
    })
    run('stepAside', COUNT, {
      amount: block(16),
      cells: grid,
      position: block(0),
      velocity: block(2),
      radius: block(16),
      widest: 5,
      size: 1,
      firm: 0.7,
      flat: 0,
      shift: block(26),
      change: block(27),
    })
    run('applyShift', COUNT, { position: block(0), velocity: block(2), shift: block(26), change: block(27) })
    run('stepOff', COUNT, {
      amount: block(16),
      position: block(0),
      velocity: block(2),
      radius: block(16),
      point: block(10),
      distance: block(4),
      normal: block(1),
      surface: block(5),
      firm: 0.7,
      flat: 0,
    })
    run('attractMutually', COUNT, {
      amount: block(16),
      cells: grid,
      position: block(0),
      acceleration: block(10),
      near: 8,
      far: 20,
      most: 8,
      p: 3,
      q: 2,
      pFactor: block(16),
      qFactor: 0,
    })
    run('calm', COUNT, {
      amount: block(16),
      cells: grid,
      position: block(0),
      acceleration: block(10),
      damping: block(4),
      reach: 20,
      most: 8,
    })
  },
  surfaces: (run) => {
    run('projectToSurface', COUNT, {
      triangle: block(18),
      point: block(0),
      from: block(1),
      to: block(2),
      triangles: block(15),
      h: 0.02,
      normal: block(3),
      surface: block(13),
    })
    run('carryAlong', COUNT, {
      amount: block(16),
      position: block(0),
      velocity: block(1),
      surfaceVelocity: block(10),
      distance: block(4),
      surface: block(13),
      within: 30,
      h: 0.02,
    })
    run('surfaceWays', COUNT, {
      triangle: block(18),
      normal: block(3),
      vertices: block(2),
      triangles: block(15),
      uvs: block(10),
      mode: 0,
      dx: 0,
      dy: 0,
      dz: 0,
      sign: -1,
      out: block(26),
    })
    run('surfaceWays', COUNT, {
      triangle: block(18),
      normal: block(3),
      vertices: block(2),
      triangles: block(15),
      uvs: block(10),
      mode: 2,
      dx: 1,
      dy: 2,
      dz: 3,
      sign: 1,
      out: block(27),
    })
    run('stepsAlong', COUNT, {
      position: block(0),
      way: block(26),
      normal: block(3),
      step: 0.1,
      ahead: block(28),
      aside: block(29),
    })
    run('march', COUNT, {
      amount: block(16),
      way: block(26),
      normal: block(3),
      surface: block(13),
      distance: block(4),
      within: 30,
      acceleration: block(10),
      damping: block(5),
      speed: 2,
      speedFactor: block(16),
      avoided: block(16),
      ahead: block(6),
      aside: block(4),
      step: 0.1,
    })
    run('holdToSurface', COUNT, {
      amount: block(16),
      position: block(0),
      velocity: block(1),
      point: block(2),
      distance: block(4),
      normal: block(3),
      surface: block(13),
      offset: 0.2,
      offsetFactor: block(16),
      within: 30,
      frames: 0.48,
    })
  },
  changes: (run) => {
    run('resize', COUNT, {
      amount: block(16),
      birthRadius: block(4),
      radius: block(5),
      inverseMass: block(6),
      size: 0.8,
      sizes: block(16),
    })
    run('fadeTo', COUNT, { amount: block(16), opacity: block(1), value: 0.8, values: block(16) })
    run('tint', COUNT, {
      amount: block(16),
      colour: block(1),
      ramp: block(17),
      at: 0.5,
      ats: block(16),
      r: 1,
      g: 0.9,
      b: 0.8,
    })
    run('spinBy', COUNT, {
      amount: block(16),
      orientation: block(2),
      axes: block(3),
      radians: 0.4,
      rates: block(16),
    })
    run('tumble', COUNT, {
      amount: block(16),
      orientation: block(2),
      angularVelocity: block(6),
      velocity: block(7),
      radius: block(8),
      contactNormal: block(3),
      age: block(16),
      begins: block(5),
      young: 0.4,
      lasts: 0.9,
      h: 0.04,
    })
    run('faceTo', COUNT, { amount: block(16), orientation: block(2), ways: block(3), portion: 0.4, level: 0 })
    run('faceTo', COUNT, { amount: block(16), orientation: block(2), ways: block(6), portion: 0.4, level: 1 })
  },
  scatter: (run) => {
    run('drawRandoms', COUNT, { ids: block(0), seed: 42, stream: 3, draw: 1, out: block(1) })
    run('scatterSurface', COUNT, {
      ids: block(0),
      seed: 42,
      stream: 5,
      areas: block(9),
      triangles: 8,
      outTriangle: block(2),
      outU: block(3),
      outV: block(4),
    })
  },
}
