/** Grains in grooves: closed form of where a ball lies between two walls, r/sin(angle/2) above their edge. */
import { weld, type Mesh } from '../src/index.ts'
import { acting, all, column, points, runTo, scene } from './help.ts'

/** Two walls that meet at an angle, along z. */
function groove(degrees: number, size: number): Mesh {
  const wide = Math.tan(((degrees / 2) * Math.PI) / 180) * size
  const corners = [-1, 1].flatMap((side) => [side * wide, size, -size, side * wide, size, size])
  return weld({
    positions: new Float32Array([0, 0, -size, 0, 0, size, ...corners]),
    triangles: new Uint32Array([0, 1, 4, 1, 5, 4, 0, 2, 1, 1, 2, 3]),
  })
}

describe.each([
  ['alone', 1],
  ['with others', 12],
])('in a sharp groove, %s,', (_, count) => {
  test.each([
    [0.01, 8, 4],
    [0.01, 8, 20],
    [0.001, 8, 10],
    [0.2, 5, 10],
    [0.01, 30, 10],
  ])('a ball of %p m lies on both walls: %p°, %p substeps', (r, degrees, substeps) => {
    const rest = r / Math.sin(((degrees / 2) * Math.PI) / 180)
    const places = Array.from({ length: count }, (_, k) => [0, rest * 1.02, 2.2 * k * r])
    const simulation = scene(
      [points(...places), groove(degrees, 60 * r)],
      {
        particle: { radius: r, density: 1000 },
        births: [all('a')],
        influences: [
          acting('gravity'),
          acting('collide', { mesh: 'b', side: 'either' }),
          ...(count > 1 ? [acting('selfCollision')] : []),
        ],
      },
      { substeps },
    )
    runTo(simulation, 72)
    const heights = column(simulation, 'position').filter((_, k) => k % 3 === 1)
    for (const y of heights) expect(Math.abs(y - rest)).toBeLessThan(0.02 * rest)
    // what rests has no velocity that a renderer would smear: less than a tenth of what a substep of gravity gives
    const fastest = Math.max(...column(simulation, 'velocity').map(Math.abs))
    expect(fastest).toBeLessThan((0.1 * 9.81) / (24 * substeps))
  })
})
