/** What each recipe is tried with, and what is to be seen then. */
import type { Mesh, Shot, Simulation } from '@tangle/core'
import { lathe } from '../../../demo/src/build.ts'
import { box, sphere } from '../../core/test/help.ts'

export const scaled = (mesh: Mesh, size: number): Mesh => ({
  ...mesh,
  positions: mesh.positions.map((x) => x * size),
})
/** A ball a metre wide that lies on the ground, a block, a tub and a thin plate. */
const raised = (mesh: Mesh, by: number): Mesh => ({ ...mesh, positions: mesh.positions.map((x, k) => x + (k % 3 === 1 ? by : 0)) }) // prettier-ignore
const BALL = raised(scaled(sphere(24), 0.5), 0.5)
const BLOCK = raised(box(0.6, 1, 0.5), 0.5)
const TUB = lathe([[0, 0], [0.4, 0], [0.5, 0.8], [0.46, 0.8], [0.37, 0.06], [0, 0.06]], 24) // prettier-ignore
const PLATE = box(0.2, 1, 1.4)
/** Another place for what others become or are passed over by. */
const ASIDE = (mesh: Mesh): Mesh => ({ ...mesh, positions: mesh.positions.map((x, k) => x + (k % 3 === 0 ? 2 : 0)) }) // prettier-ignore

export interface Trial {
  meshes: Record<string, Mesh>
  /** Part of the particles, and values by their labels in "Try first" as shares of what the recipe has. */
  share?: number
  lighter?: Record<string, number>
  /** Whether it takes as long at every size; heavy things take the time that falling takes. */
  alike: boolean
  /** What is to be seen, by seconds; the last moment is the end of the shot. */
  right: [seconds: number | 'end', (seen: Seen) => void][]
}
export interface Seen {
  shot: Shot
  simulation: Simulation
  size: number
  /** Places of a population, in sizes of the body, and how many there are of them. */
  of(population: string): { places: number[][]; alive: number; phases: Record<string, number> }
}
const [x, y, z] = [0, 1, 2].map((k) => (place: number[]) => place[k]!) as [(p: number[]) => number, (p: number[]) => number, (p: number[]) => number] // prettier-ignore
const mean = (values: number[]): number => values.reduce((sum, v) => sum + v, 0) / values.length
const most = (values: number[]): number => values.reduce((a, b) => Math.max(a, b), -Infinity)
const least = (values: number[]): number => values.reduce((a, b) => Math.min(a, b), Infinity)
export const from = (place: number[], other: number[]): number =>
  Math.hypot(...place.map((c, k) => c - other[k]!))
export const MIDDLE = [0, 0.5, 0]

export const TRIALS: Record<string, Trial> = {
  dust: {
    meshes: { body: BALL },
    share: 0.005,
    alike: true,
    right: [
      [2.5, ({ of, simulation }) => {
        expect(of('dust').alive).toBeGreaterThan(150)
        const [area] = simulation.measures().meshes
        expect(area!.left / area!.area).toBeGreaterThan(0.1)
        expect(area!.left / area!.area).toBeLessThan(0.9)
      }],
      ['end', ({ of, simulation }) => {
        expect(simulation.measures().meshes[0]!.left).toBe(0)
        expect(mean(of('dust').places.map(x))).toBeGreaterThan(0.3)
      }],
    ],
  },
  wipe: {
    meshes: { body: BALL },
    share: 0.02,
    alike: true,
    right: [
      [4.6, ({ of }) => expect(of('grains').phases.Held).toBe(0)],
      [6, ({ of }) => expect(mean(of('grains').places.map((p) => Math.abs(from(p, MIDDLE) - 0.5)))).toBeGreaterThan(0.01)],
      ['end', ({ of }) => {
        const { alive, phases, places } = of('grains')
        expect(phases.Home).toBe(alive)
        expect(most(places.map((p) => Math.abs(from(p, MIDDLE) - 0.5)))).toBeLessThan(0.01)
      }],
    ],
  },
  morph: {
    meshes: { body: BALL, target: ASIDE(BLOCK) },
    share: 0.02,
    alike: true,
    right: [
      [0.5, ({ of }) => expect(most(of('grains').places.map((p) => Math.abs(from(p, MIDDLE) - 0.5)))).toBeLessThan(0.02)],
      ['end', ({ of }) => {
        const { places } = of('grains')
        expect(least(places.map(x))).toBeGreaterThan(1.65)
        expect(most(places.map(x))).toBeLessThan(2.35)
        // they reach its corners
        expect(most(places.map(y)) - least(places.map(y))).toBeGreaterThan(0.95)
      }],
    ],
  },
  swarm: {
    meshes: { perch: BALL },
    share: 0.1,
    alike: true,
    right: [
      [4.7, ({ of }) => {
        const off = of('swarm').places.map((p) => Math.abs(from(p, MIDDLE) - 0.5))
        expect(off.filter((d) => d < 0.05).length).toBeGreaterThan(0.9 * off.length)
      }],
      ['end', ({ of }) => expect(least(of('swarm').places.map((p) => from(p, MIDDLE)))).toBeGreaterThan(1)],
    ],
  },
  streams: {
    meshes: { body: BALL },
    share: 0.03,
    alike: true,
    right: [
      ['end', ({ of }) => {
        const { places } = of('streams')
        expect(most(places.map((p) => Math.abs(from(p, MIDDLE) - 0.5)))).toBeLessThan(0.02)
        expect(least(places.map(y))).toBeLessThan(0.2)
      }],
    ],
  },
  crowd: {
    meshes: { body: BALL },
    alike: true,
    right: [
      ['end', ({ of, simulation }) => {
        const { places } = of('people')
        expect(simulation.measures().populations[0]!.overlaps!.worst).toBeLessThan(0.1)
        const there = places.slice(0, places.length / 2).map(x)
        const back = places.slice(places.length / 2).map(x)
        expect([mean(there) > 0.3, mean(back) < -0.3]).toEqual([true, true])
        // around it, not through it
        expect(places.filter((p) => Math.hypot(x(p), z(p)) < 0.15)).toEqual([])
      }],
    ],
  },
  pile: {
    meshes: { body: BLOCK },
    share: 0.02,
    alike: false,
    right: [
      ['end', ({ of, simulation }) => {
        const { places } = of('balls')
        expect(places.length).toBeGreaterThan(15)
        expect(least(places.map(y))).toBeGreaterThan(0)
        expect(most(places.map((p) => from(p, [0, 0, 0])))).toBeLessThan(4)
        expect(simulation.measures().populations[0]!.speed!.median).toBeLessThan(0.02)
        // on the floor, or left lying on top of the ball
        expect(places.filter((p) => y(p) < 0.2).length).toBeGreaterThan(0.6 * places.length)
      }],
    ],
  },
  sand: {
    meshes: { body: BLOCK },
    lighter: { 'Distance between grains': 2.2, 'Size of grains': 2.2 },
    alike: false,
    right: [
      [0.7, ({ of }) => expect(most(of('sand').places.map(y))).toBeGreaterThan(0.85)],
      ['end', ({ of, simulation }) => {
        const { places } = of('sand')
        expect(most(places.map(y))).toBeLessThan(0.75)
        expect(most(places.map(x)) - least(places.map(x))).toBeGreaterThan(1)
        expect(least(places.map(y))).toBeGreaterThan(0)
        expect(simulation.measures().populations[0]!.links!.broken).toBeGreaterThan(0)
      }],
    ],
  },
  cut: {
    meshes: { body: BLOCK, blade: ASIDE(PLATE) },
    alike: false,
    lighter: { 'Distance between grains': 2, 'Size of grains': 2 },
    right: [
      [0.5, ({ of }) => expect(most(of('soft').places.map(y))).toBeGreaterThan(0.85)],
      ['end', ({ of, simulation }) => {
        const links = simulation.measures().populations[0]!.links!
        expect(links.broken).toBeGreaterThan(0)
        expect(links.broken).toBeLessThan(0.4 * (links.alive + links.broken))
        const across = of('soft').places.map(x)
        expect(most(across) - least(across)).toBeGreaterThan(0.75)
      }],
    ],
  },
  snow: {
    meshes: { body: BLOCK },
    share: 0.03,
    alike: true,
    right: [
      ['end', ({ of, simulation, size }) => {
        expect(of('snow').phases.Lying).toBeGreaterThan(0)
        const [cover] = simulation.measures().covers
        expect(cover!.volume / size ** 3).toBeGreaterThan(1e-6)
        expect(least(of('snow').places.map(y))).toBeGreaterThan(-0.001)
      }],
    ],
  },
  mend: {
    meshes: { body: BALL },
    lighter: { Pieces: 0.15 },
    alike: false,
    right: [
      [0.9, ({ of }) => expect(of('pieces').phases.Whole).toBe(of('pieces').alive)],
      [2.4, ({ of }) => expect(most(of('pieces').places.map((p) => from(p, MIDDLE)))).toBeGreaterThan(0.55)],
      ['end', ({ of }) => {
        expect(of('pieces').phases.Home).toBe(of('pieces').alive)
        expect(most(of('pieces').places.map((p) => from(p, MIDDLE)))).toBeLessThan(0.5)
      }],
    ],
  },
  shell: {
    meshes: { body: BALL },
    lighter: { Pieces: 0.15, Thickness: 3 },
    alike: false,
    right: [
      [0.2, ({ of }) => expect(of('flakes').phases.Held).toBe(of('flakes').alive)],
      ['end', ({ of }) => {
        const { places, phases, alive } = of('flakes')
        expect(phases.Loose).toBe(alive)
        expect(mean(places.map(y))).toBeLessThan(0.35)
        // none is in the ball
        expect(least(places.map((p) => from(p, MIDDLE)))).toBeGreaterThan(0.45)
      }],
    ],
  },
  scan: {
    meshes: { target: BALL, device: ASIDE(scaled(BLOCK, 3)) },
    alike: true,
    right: [
      [5, ({ of }) => {
        const { places } = of('marks')
        expect(places.length).toBeGreaterThan(100)
        expect(most(places.map((p) => Math.abs(from(p, MIDDLE) - 0.5)))).toBeLessThan(0.01)
        // rays come from above
        expect(least(places.map(y))).toBeGreaterThan(0.4)
        expect(of('around').alive).toBeGreaterThan(5 * places.length)
      }],
    ],
  },
  wake: {
    meshes: { body: BALL },
    share: 0.3,
    alike: true,
    right: [
      [4, ({ of }) => {
        const across = of('wake').places.map(x)
        expect(across.length).toBeGreaterThan(200)
        expect(most(across) - least(across)).toBeGreaterThan(1.2)
        // behind what leaves it
        expect(mean(across)).toBeLessThan(mean(of('carriers').places.map(x)) - 0.3)
      }],
    ],
  },
  fill: {
    meshes: { vessel: TUB },
    lighter: { 'Fineness (radius)': 1.8 },
    alike: false,
    right: [
      ['end', ({ of, simulation, size }) => {
        const { places } = of('water')
        expect(places.length).toBeGreaterThan(80)
        expect(places.filter((p) => y(p) < 0 || Math.hypot(x(p), z(p)) > 0.5)).toEqual([])
        // full to about 0.6 of its height, and at rest
        expect(most(places.map(y))).toBeGreaterThan(0.35)
        expect(most(places.map(y))).toBeLessThan(0.7)
        expect(simulation.measures().populations[0]!.speed!.median).toBeLessThan(0.1 * Math.sqrt(9.81 * size))
      }],
    ],
  },
  clump: {
    meshes: { body: BALL },
    lighter: { 'Distance at the start': 1.7 },
    alike: true,
    right: [
      [2.5, ({ of }) => expect(mean(of('clump').places.map(x))).toBeGreaterThan(0.25)],
      ['end', ({ of }) => {
        const { places } = of('clump')
        const middle = [x, y, z].map((k) => mean(places.map(k)))
        expect(mean(places.map((p) => from(p, middle)))).toBeLessThan(0.5)
      }],
    ],
  },
} // prettier-ignore
