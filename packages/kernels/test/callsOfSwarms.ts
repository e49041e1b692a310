/** Steering, swarms and what changes particles. */
import { block, COUNT, type Run } from './call.ts'

export const CALLS_OF_SWARMS: Record<string, (run: Run) => void> = {
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
      places: block(39),
      columns: block(38),
      columnBytes: 16 * (COUNT / 4 + 1),
      perMetre: 0.05,
    })
    run('countNeighbours', COUNT, {
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
      radius: block(6),
      acceleration: block(10),
      point: block(1),
      surface: block(3),
      distance: block(16),
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
      radius: block(6),
      point: block(10),
      distance: block(16),
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
