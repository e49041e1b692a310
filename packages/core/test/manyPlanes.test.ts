/** Surfaces with more planes about a particle than are kept: of several meshes, and of meshes that are finely made. */
import { weld, type Mesh } from '../src/index.ts'
import { acting, all, box, column, points, runTo, scene, sphere } from './help.ts'
import { G, heights, mean, startTank } from './liquidHelp.ts'

const moved = (mesh: Mesh, y: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((at, k) => (k % 3 === 1 ? at + y : at)),
})

test.each([
  [0.01, 4],
  [0.001, 10],
  [0.5, 10],
])('what lies within four walls is borne by another mesh too: balls of %p m, %p substeps', (r, substeps) => {
  const places = Array.from({ length: 10 }, (_, k) => [0.02 * r, (1.05 + 2.1 * k) * r, 0.01 * r])
  // the shaft is named first, and its four walls are nearer than what lies below
  const shaft = moved(box(2.3 * r, 60 * r, 2.3 * r), 20 * r)
  const plug = moved(box(2 * r, 4 * r, 2 * r), -2 * r)
  const simulation = scene(
    [points(...places), shaft, plug],
    {
      particle: { radius: r, density: 1000 },
      births: [all('a')],
      influences: [
        acting('gravity'),
        acting('collide', { id: 'shaft', mesh: 'b', side: 'inside' }),
        acting('collide', { id: 'plug', mesh: 'c' }),
        acting('selfCollision'),
      ],
    },
    { substeps },
  )
  runTo(simulation, 60)
  const lowest = Math.min(...heights(simulation))
  expect(lowest / r).toBeGreaterThan(0.97)
  expect(lowest / r).toBeLessThan(1.03)
})

test('a ball comes to rest at the bottom of a bowl however finely it is made', () => {
  for (const rings of [24, 60, 160]) {
    const simulation = scene(
      [points([0.03, -0.8, 0.02]), sphere(rings)],
      {
        particle: { radius: 0.05, density: 1000 },
        births: [all('a')],
        influences: [
          acting('gravity'),
          acting('drag', { strength: 3 }),
          acting('collide', { mesh: 'b', side: 'inside' }),
        ],
      },
      { substeps: 10 },
    )
    runTo(simulation, 240)
    expect([rings, heights(simulation)[0]! + 1 - 0.05]).toEqual([rings, expect.closeTo(0, 2)])
    expect(Math.max(...column(simulation, 'velocity').map(Math.abs))).toBeLessThan(0.02)
  }
})

test('a liquid has its level and stays in a glass however finely that is made', () => {
  const middles = [16, 64].map((around) => {
    const simulation = startTank({
      meshes: [tumbler(around, around / 4)],
      width: 0.01,
      liquid: { viscosity: 0.01 },
    })
    const y = heights(runTo(simulation, 16))
    expect([around, y.every((one) => one > 0.003)]).toEqual([around, true])
    const position = column(simulation, 'position')
    expect(y.filter((_, i) => Math.hypot(position[i * 3]!, position[i * 3 + 2]!) > 0.048)).toEqual([])
    return mean(y)
  })
  expect(Math.abs(middles[0]! / middles[1]! - 1)).toBeLessThan(0.03)
})

// facets that meet at 22° and at 11°: what runs from one to the next was pressed into it, and each time came to stand higher
test.each([
  [8, 0.09, 24],
  [12, 1.5, 6],
])('a liquid comes to rest in a bowl of %p facets from pole to pole, %p m', (rings, size, rate) => {
  const bowl = sphere(rings)
  const tank = {
    meshes: [{ ...bowl, positions: bowl.positions.map((at) => at * size) }],
    width: size / 9,
    rate,
  }
  const simulation = runTo(startTank(tank), 40)
  const { speed, liquid } = simulation.measures().populations[0]!
  // a tenth of the speed at which it falls by its width
  expect(speed.high).toBeLessThan(0.1 * Math.sqrt(2 * G * tank.width))
  expect(liquid!.high).toBeLessThan(0.005)
  expect(heights(simulation).every((y) => Math.abs(y) < size)).toBe(true)
})

/** A closed cylinder of 5 cm radius and 12 cm height, its wall in so many squares. */
function tumbler(around: number, rows: number): Mesh {
  const rims = Array.from({ length: rows + 1 }, (_, k) =>
    Array.from({ length: around }, (_, s) => {
      const turn = (2 * Math.PI * s) / around
      return [0.05 * Math.sin(turn), (0.12 * k) / rows, 0.05 * Math.cos(turn)]
    }),
  )
  const at = (k: number, s: number): number => k * around + (s % around)
  const wall = Array.from({ length: rows * around }, (_, n) => {
    const [k, s] = [Math.floor(n / around), n % around]
    return [at(k, s), at(k, s + 1), at(k + 1, s + 1), at(k, s), at(k + 1, s + 1), at(k + 1, s)]
  })
  const [low, high] = [(rows + 1) * around, (rows + 1) * around + 1]
  const ends = Array.from({ length: around }, (_, s) => [
    low,
    at(0, s + 1),
    at(0, s),
    high,
    at(rows, s),
    at(rows, s + 1),
  ])
  return weld({
    positions: new Float32Array([...rims.flat(2), 0, 0, 0, 0, 0.12, 0]),
    triangles: new Uint32Array([...wall.flat(), ...ends.flat()]),
  })
}
