/** Motion, forces, amounts, masks, meshes and goals. */
import { block, COUNT, type Run } from './call.ts'

export const CALLS_OF_FIELDS: Record<string, (run: Run) => void> = {
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
    const [acceleration, damping] = [block(3), block(4)]
    run('startForces', COUNT, {
      phase: block(8),
      phases: 3,
      even: block(7),
      acceleration,
      damping,
      stiffness: block(6),
    })
    run('addEvenForce', COUNT, {
      amount: block(12),
      acceleration,
      damping,
      ax: 0.1,
      ay: -9.8,
      az: 0.3,
      c: 0.7,
    })
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
      tableBytes: 4096,
      octaves: 3,
      frequency: 0.7,
      amplitude: 1.1,
      offset: 0.5,
    })
  },
  amounts: (run) => {
    run('weigh', COUNT, { phase: block(8), weights: block(9), amount: block(12) })
    run('respond', COUNT, { source: block(0), keys: block(14), count: 3, amount: block(12) })
    run('readColumn', COUNT, { column: block(0), width: 3, at: 1, plus: 0.5, times: 24, over: block(5), least: 0, out: block(13) }) // prettier-ignore
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
      tableBytes: 4096,
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
      tableBytes: 4096,
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
  meshMotion: (run) => {
    run('blendPoints', COUNT, { a: block(0), b: block(1), part: 0.3, out: block(20) })
    run('addDeltas', COUNT, { deltas: block(2), amount: -0.7, points: block(20) })
    // every joint is the second, and so are both ends of each middle
    run('skinPoints', COUNT, { points: block(20), width: 1, joints: block(8), weights: block(7), maps: block(3), out: block(21) }) // prettier-ignore
    run('placeMiddles', 8, { count: 8, first: 40, ends: block(8), points: block(21) })
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
  // block 9 is read as the head of a field of 3 × 6 × 7 cells, from whose values 10 m are taken off
  distanceField: (run) => {
    run('sidesByField', COUNT, { field: block(9), queries: block(0), limit: 5, distance: block(1) })
    run('selectUntold', 0, { count: COUNT, distance: block(1), out: block(2) })
    run('scatterRows', COUNT, { index: block(8), rows: block(3), width: 3, column: block(4) })
  },
  single: (run) => {
    run('curlAt', COUNT, {
      points: block(0),
      out: block(1),
      gradients: block(10),
      frequency: 0.3,
      offset: 0.5,
    })
    run('pushOf', 1, { pair: block(2), reach: 1.2, horizon: 3, out: block(3) })
    run('fill', COUNT, { column: block(26), value: 0.25 })
  },
}
