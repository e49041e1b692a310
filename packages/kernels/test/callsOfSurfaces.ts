/** Surfaces, on which particles stay and run. */
import { block, COUNT, type Run } from './call.ts'

export const CALLS_OF_SURFACES: Record<string, (run: Run) => void> = {
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
      given: 0,
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
      given: 0,
      mode: 2,
      dx: 1,
      dy: 2,
      dz: 3,
      sign: 1,
      out: block(27),
    })
    run('combedWays', COUNT, {
      triangle: block(18),
      point: block(0),
      vertices: block(2),
      triangles: block(15),
      rest: block(6),
      directions: block(10),
      out: block(28),
    })
    run('surfaceWays', COUNT, {
      triangle: block(18),
      normal: block(3),
      vertices: block(2),
      triangles: block(15),
      uvs: 0,
      given: block(28),
      mode: 3,
      dx: 0,
      dy: 0,
      dz: 0,
      sign: 1,
      out: block(27),
    })
    run('followWays', COUNT, {
      amount: block(16),
      position: block(0),
      point: block(2),
      way: block(28),
      normal: block(3),
      surface: block(13),
      distance: block(4),
      acceleration: block(10),
      damping: block(5),
      speed: -2,
      speedFactor: block(16),
      along: 1,
      pull: 0.7,
      offset: 0.2,
      offsetFactor: block(16),
      reach: 0.3,
      within: 30,
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
}
