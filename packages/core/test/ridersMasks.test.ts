/** Where masks are read of particles: on their place of birth while Ride holds them there, else where they are. */
import { ASSET, acting, runTo, sheet, shotOf, start } from './help.ts'
import type { Mesh, Simulation } from '../src/index.ts'

/** A square of 4 m whose U runs along x from 0 to 1. */
function chart(): Mesh {
  const mesh = sheet(16, 4)
  return { ...mesh, uvs: Float32Array.from([...mesh.triangles].flatMap((v) => [mesh.positions[v * 3]! / 4 + 0.5, mesh.positions[v * 3 + 2]! / 4 + 0.5])) } // prettier-ignore
}
const right = { id: 'right', kind: 'uv', mesh: 'box', along: 'u', low: 0.5, high: 2, soft: 0 }
/** Born on the left quarter, with a cue that waits for the right half. */
const crossing = (influences: object[], more: object = {}): Simulation =>
  start(
    shotOf(
      {
        phases: ['Loose', 'Over'],
        births: [{ id: 'b', kind: 'surface', mesh: 'box', into: 'Loose', amount: { burst: 200, at: 1 }, inherit: 0, density: 'left' }],
        cues: [{ id: 'c', from: 'Loose', to: 'Over', when: { kind: 'mask', mask: 'right' } }],
        influences,
      },
      { masks: [right, { ...right, id: 'left', low: -1, high: 0.25 }], combings: [{ id: 'combed', mesh: 'box', start: 'u' }], meshes: [{ id: 'box', source: { asset: ASSET }, ...more }] },
    ),
    new Map([[ASSET, chart()]]),
  ) // prettier-ignore

/** Of each particle its x and whether it has gone over. */
function rows(simulation: Simulation): { x: number; over: boolean }[] {
  const { columns, count } = simulation.populations()[0]!
  return Array.from({ length: count }, (_, i) => ({ x: columns.position![i * 3]!, over: columns.phase![i] === 1 })) // prettier-ignore
}

test.each([
  ['follow', acting('follow', { combing: 'combed', speed: 2, strength: 20, reach: 0.2 })],
  [
    'march',
    acting('march', {
      along: 'combing',
      combing: 'combed',
      mesh: 'box',
      speed: 2,
      strength: 20,
      within: 0.3,
    }),
  ],
  ['a wind', acting('wind', { direction: [1, 0, 0], speed: 2, strength: 30, gusts: 0 })],
])('who is moved along its mesh by %s comes into a mask of the mesh where it goes', (_, influence) => {
  const simulation = runTo(crossing([influence]), 13)
  const halfway = rows(simulation)
  // one second and a half at up to 2 m/s: a mask is read at the start of a substep
  const [before, after] = [halfway, rows(runTo(simulation, 30))]
  for (const { x, over } of [...before, ...after]) {
    if (x < -0.1) expect([x, over]).toEqual([x, false])
    if (x > 0.3) expect([x, over]).toEqual([x, true])
  }
  expect(after.filter(({ over }) => over).length).toBeGreaterThan(150)
})

test('who rides stays on its place of birth, however its mesh moves and bends', () => {
  const place = { position: [{ keys: [[1, 0], [25, 10]] }, 0, 0], rotation: [0, { keys: [[1, 0], [25, 300]] }, 0] } // prettier-ignore
  const deform = [{ id: 'r', kind: 'ripple', amount: 0.3, wavelength: 0.7, speed: 3 }]
  const ride = acting('ride', { weights: { Loose: 1, Over: 1 } })
  const simulation = runTo(crossing([ride], { place, deform }), 25)
  expect(rows(simulation).every(({ over }) => !over)).toBe(true)
  // and in a phase in which it is let go, it is where it is
  const free = crossing([acting('ride', { weights: { Over: 1 } })], { place })
  const at = rows(runTo(free, 25))
  // the right half has moved away from over it, or under it: those near the middle line of the turned mesh are left out
  const turn = (-300 * Math.PI) / 180
  const { columns } = free.populations()[0]!
  at.forEach(({ x, over }, i) => {
    if (over) return
    const z = columns.position![i * 3 + 2]!
    const u = (x - 10) * Math.cos(turn) + z * Math.sin(-turn)
    expect(u).toBeLessThan(0.6)
  })
  expect(at.length).toBe(200)
})
