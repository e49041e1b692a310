/** The solver against closed forms. */
import { acting, burst, column, runTo, shotOf, start } from './help.ts'

const G = 9.80665 // m/s², CGPM 1901
const SECONDS = 2 // frames 1 to 49 at 24 per second

/** Mean displacement and velocity along an axis after two seconds. */
function fly(births: object, influences: object[], axis: number, substeps = 2) {
  const shot = shotOf({ births: [births], influences }, { quality: { substeps } })
  const simulation = start(shot)
  const from = column(simulation, 'position')
  runTo(simulation, 49)
  const to = column(simulation, 'position')
  const velocity = column(simulation, 'velocity')
  const count = from.length / 3
  let moved = 0
  let speed = 0
  for (let i = 0; i < count; i++) {
    moved += (to[i * 3 + axis]! - from[i * 3 + axis]!) / count
    speed += velocity[i * 3 + axis]! / count
  }
  return { moved, speed }
}
const up = { aim: 'direction', direction: [0, 3, 0], speed: 5 }

test.each([1, 2, 5])('free fall: x = ½gt², v = gt, with %i substeps', (substeps) => {
  const { moved, speed } = fly(burst(), [acting('gravity')], 1, substeps)
  expect(moved).toBeCloseTo(-0.5 * G * SECONDS ** 2, 4)
  expect(speed).toBeCloseTo(-G * SECONDS, 4)
})

test('throw: x = v₀t − ½gt²', () => {
  const { moved, speed } = fly(burst(up), [acting('gravity', { strength: 0.5 })], 1)
  expect(moved).toBeCloseTo(5 * SECONDS - 0.25 * G * SECONDS ** 2, 4)
  expect(speed).toBeCloseTo(5 - 0.5 * G * SECONDS, 4)
})

test.each([0.3, 4, 400])('linear drag c = %d: v = v∞ + (v₀ − v∞)e^(−ct), also when stiff', (c) => {
  const { moved, speed } = fly(burst(up), [acting('gravity'), acting('drag', { strength: c })], 1)
  const terminal = -G / c
  const decayed = Math.exp(-c * SECONDS)
  expect(speed).toBeCloseTo(terminal + (5 - terminal) * decayed, 4)
  expect(moved).toBeCloseTo(terminal * SECONDS + ((5 - terminal) * (1 - decayed)) / c, 3)
})

test('quadratic drag: terminal speed √(2mg/ρcA)', () => {
  const radius = 0.004
  const mass = 1000 * (4 / 3) * Math.PI * radius ** 3
  const expected = Math.sqrt((2 * mass * G) / (1.2 * 0.47 * Math.PI * radius ** 2))
  const shot = shotOf({
    particle: { radius, density: 1000 },
    births: [burst()],
    influences: [acting('gravity'), acting('airDrag')],
  })
  const velocity = column(runTo(start(shot), 240), 'velocity')
  expect(-velocity[1]!).toBeCloseTo(expected, 3)
})

test.each([2, 5, 10])('a flake of %d mm falls within a fifth of what was measured', (size) => {
  // density of aggregates 178·D^−0.922 kg/m³: Brandes et al. (2007); speed 0.8·D^0.16 m/s: Locatelli, Hobbs (1974),
  // aggregates of dendrites; D in mm, both from memory. A drag coefficient of 2 is that of a loose, flat body.
  const shot = shotOf({
    particle: { radius: size / 2000, density: 178 * size ** -0.922 },
    births: [burst()],
    influences: [acting('gravity'), acting('airDrag', { coefficient: 2 })],
  })
  const speed = -column(runTo(start(shot), 72), 'velocity')[1]!
  expect(Math.abs(speed / (0.8 * size ** 0.16) - 1)).toBeLessThan(0.2)
})

test('wind: every particle takes on the air speed, heavy or light, and never more', () => {
  const wind = acting('wind', { speed: 7, direction: [0, 0, 2], strength: 2, gusts: 0 })
  const { speed } = fly(burst(), [wind], 2)
  expect(speed).toBeCloseTo(7 * (1 - Math.exp(-2 * SECONDS)), 4)
})

test('weights: a phase of weight 0.25 gets a quarter, a muted influence nothing', () => {
  const quarter = fly(burst(), [acting('gravity', { weights: { Loose: 0.25 } })], 1)
  expect(quarter.speed).toBeCloseTo(-0.25 * G * SECONDS, 4)
  expect(fly(burst(), [acting('gravity', { muted: true })], 1).speed).toBe(0)
})

test('strength over time: keys from 0 to 1 over two seconds give ½gt of speed', () => {
  const strength = {
    keys: [
      [1, 0],
      [49, 1],
    ],
  }
  expect(fly(burst(), [acting('gravity', { strength })], 1).speed).toBeCloseTo(-0.5 * G * SECONDS, 4)
})

test('turbulence moves particles apart without a net drift much above chance', () => {
  const shot = shotOf({
    births: [burst({ amount: { burst: 8000, at: 1 } })],
    influences: [acting('turbulence', { strength: 3, scale: 0.05, octaves: 1, change: 0 })],
  })
  const velocity = column(runTo(start(shot), 2), 'velocity')
  const squares = velocity.reduce((sum, v) => sum + v * v, 0) / (velocity.length / 3)
  // strength is the root mean square acceleration
  expect(Math.sqrt(squares) * 24).toBeGreaterThan(2.6)
  expect(Math.sqrt(squares) * 24).toBeLessThan(3.3)
})

test('mass and radius: a particle of density ρ weighs ρ·4/3·πr³', () => {
  const shot = shotOf({ particle: { radius: { mean: 0.02, spread: 0.5 }, density: 800 }, births: [burst()] })
  const simulation = start(shot)
  const radius = column(simulation, 'radius')
  const inverseMass = column(simulation, 'inverseMass')
  radius.forEach((r, i) => expect(inverseMass[i]! * 800 * (4 / 3) * Math.PI * r ** 3).toBeCloseTo(1, 5))
  expect(Math.min(...radius)).toBeGreaterThanOrEqual(0.01 - 1e-6)
  expect(Math.max(...radius) - Math.min(...radius)).toBeGreaterThan(0.019)
})
