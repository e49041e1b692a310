/** Every recipe, for things of 5 cm, 1 m and 50 m: it is sound, silent, looks the same at each size, and does what it says. */
import {
  checkFrame,
  checkShot,
  completeMesh,
  createSimulation,
  derive,
  derivedFrom,
  emptyShot,
  liftedValues,
  meshFacts,
  readShot,
  readyFor,
  sourceKey,
  type Mesh,
  type Shot,
  type Simulation,
} from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import { lathe } from '../../../demo/src/build.ts'
import { asset, box, sphere } from '../../core/test/help.ts'
import { manifold } from '../../core/test/rigidHelp.ts'
import { RECIPES, withRecipe, type Recipe } from '../src/index.ts'

const SIZES = [0.05, 1, 50]

const scaled = (mesh: Mesh, size: number): Mesh => ({
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

interface Trial {
  meshes: Record<string, Mesh>
  /** Part of the particles, and values by their labels in "Try first" as shares of what the recipe has. */
  share?: number
  lighter?: Record<string, number>
  /** Whether it takes as long at every size; heavy things take the time that falling takes. */
  alike: boolean
  /** What is to be seen, by seconds; the last moment is the end of the shot. */
  right: [seconds: number | 'end', (seen: Seen) => void][]
}
interface Seen {
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
const from = (place: number[], other: number[]): number => Math.hypot(...place.map((c, k) => c - other[k]!))
const MIDDLE = [0, 0.5, 0]

const TRIALS: Record<string, Trial> = {
  dust: {
    meshes: { body: BALL },
    share: 0.01,
    alike: true,
    right: [
      [2.5, ({ of, simulation }) => {
        expect(of('dust').alive).toBeGreaterThan(300)
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
    share: 0.06,
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
    meshes: { body: BALL },
    share: 0.1,
    alike: false,
    right: [
      ['end', ({ of, simulation }) => {
        const { places } = of('balls')
        expect(places.length).toBeGreaterThan(90)
        expect(least(places.map(y))).toBeGreaterThan(0)
        expect(most(places.map((p) => from(p, [0, 0, 0])))).toBeLessThan(4)
        expect(simulation.measures().populations[0]!.speed!.median).toBeLessThan(0.02)
        // on the floor, or left lying on top of the ball
        expect(places.filter((p) => y(p) < 0.2).length).toBeGreaterThan(0.8 * places.length)
      }],
    ],
  },
  sand: {
    meshes: { body: BLOCK },
    lighter: { 'Distance between grains': 1.7, 'Size of grains': 1.7 },
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
    lighter: { 'Distance between grains': 1.7, 'Size of grains': 1.7 },
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
    share: 0.08,
    alike: true,
    right: [
      ['end', ({ of, simulation, size }) => {
        expect(of('snow').phases.Lying).toBeGreaterThan(30)
        const [cover] = simulation.measures().covers
        expect(cover!.volume / size ** 3).toBeGreaterThan(1e-5)
        expect(least(of('snow').places.map(y))).toBeGreaterThan(-0.001)
      }],
    ],
  },
  mend: {
    meshes: { body: BALL },
    lighter: { Pieces: 0.25 },
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
    lighter: { Pieces: 0.2 },
    alike: false,
    right: [
      [0.2, ({ of }) => expect(of('flakes').phases.Held).toBe(of('flakes').alive)],
      ['end', ({ of }) => {
        const { places, phases, alive } = of('flakes')
        expect(phases.Loose).toBe(alive)
        expect(mean(places.map(y))).toBeLessThan(0.35)
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
    lighter: { 'Fineness (radius)': 1.6 },
    alike: false,
    right: [
      ['end', ({ of, simulation, size }) => {
        const { places } = of('water')
        expect(places.length).toBeGreaterThan(400)
        expect(places.filter((p) => y(p) < 0 || Math.hypot(x(p), z(p)) > 0.5)).toEqual([])
        // full to about 0.6 of its height, and at rest
        expect(most(places.map(y))).toBeGreaterThan(0.35)
        expect(most(places.map(y))).toBeLessThan(0.65)
        expect(simulation.measures().populations[0]!.speed!.median).toBeLessThan(0.1 * Math.sqrt(9.81 * size))
      }],
    ],
  },
  clump: {
    meshes: { body: BALL },
    lighter: { 'How many': 0.2 },
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

/** An empty shot with the meshes of a recipe, and the recipe written into it. */
function written(recipe: Recipe, meshes: Record<string, Mesh>, size: number, start = emptyShot('Empty')) {
  const given = Object.entries(meshes).map(([slot, mesh], n) => ({ slot, id: slot, mesh: scaled(mesh, size), asset: asset(n) })) // prettier-ignore
  const shot: Shot = {
    ...start,
    meshes: [...start.meshes, ...given.filter(({ id }) => !start.meshes.some((one) => one.id === id)).map(({ id, asset }) => completeMesh({ id, source: { asset } }))], // prettier-ignore
  }
  const read = withRecipe(recipe, shot, Object.fromEntries(given.map(({ slot, id, mesh }) => [slot, { id, mesh }]))) // prettier-ignore
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return { shot: read.shot, given }
}

/** With values of "Try first" that many times as large. */
function lighterBy(shot: Shot, shares: Record<string, number>): Shot {
  const copy = structuredClone(shot)
  for (const { label, path, value, whole } of liftedValues(shot)) {
    const share = shares[label]
    if (share === undefined) continue
    const holder = path.slice(0, -1).reduce<unknown>((at, key) => (at as never)[key], copy)
    ;(holder as Record<string, number>)[path.at(-1)!] = whole ? Math.round(value * share) : value * share
  }
  return copy
}

/** How far places are from the middle of the body, in its sizes: what lies half way. */
const halfWay = (places: number[][]): number =>
  places.map((p) => from(p, MIDDLE)).toSorted((a, b) => a - b)[places.length >> 1] ?? 0

test('each recipe has a trial', () => {
  expect(Object.keys(TRIALS).toSorted()).toEqual(RECIPES.map(({ id }) => id).toSorted())
})

describe.each(RECIPES.map((recipe) => [recipe.label, recipe] as const))('%s', (_, recipe) => {
  const trial = TRIALS[recipe.id]!
  /** Where half of each population is at each moment, by size. */
  const ways: number[][] = []

  test.each(SIZES)('of %d m', async (size) => {
    const { shot: whole, given } = written(recipe, trial.meshes, size)
    expect(liftedValues(whole).length).toBe(whole.lifted.length)
    expect(whole.lifted.length).toBeGreaterThanOrEqual(3)
    expect(readShot(JSON.parse(JSON.stringify(whole))).problems).toBeUndefined()
    const shot = lighterBy(whole, trial.lighter ?? {})
    const meshes = new Map(given.map(({ asset, mesh }) => [asset, mesh]))
    const tools = { manifold: await manifold(), machine: createMachine() }
    for (const mesh of shot.meshes)
      if (derivedFrom(mesh.source))
        meshes.set(sourceKey(mesh.source, shot), derive(tools, shot, mesh, meshes))
    await readyFor(shot)
    const facts = new Map(shot.meshes.map(({ id, source }) => [id, meshFacts(meshes.get(sourceKey(source, shot))!)])) // prettier-ignore
    expect(checkShot(shot, facts)).toEqual([])
    const simulation = createSimulation(createMachine(), shot, meshes, { share: trial.share ?? 1 })
    const seen: Seen = {
      shot,
      simulation,
      size,
      of(name) {
        const index = shot.populations.findIndex(({ id }) => id === name)
        const { alive, phases } = simulation.measures().populations[index]!
        const at = simulation.populations()[index]!.columns.position!
        const places = Array.from({ length: alive }, (_, i) => [0, 1, 2].map((k) => at[i * 3 + k]! / size))
        expect(places.flat().every(Number.isFinite)).toBe(true)
        return { places, alive, phases }
      },
    }
    const { first, last, rate } = shot.frames
    const way: number[] = []
    for (const [seconds, right] of trial.right) {
      const frame = seconds === 'end' ? last : first + Math.round(seconds * rate)
      while (simulation.frame < frame) simulation.advance()
      right(seen)
      for (const { id } of shot.populations) way.push(halfWay(seen.of(id).places))
      expect(checkFrame(shot, simulation.measures(), frame)).toEqual([])
    }
    ways.push(way)
    simulation.dispose()
  })

  const check = trial.alike ? test : test.skip
  check('looks the same at each size', () => {
    const [small, middle, large] = ways as [number[], number[], number[]]
    middle.forEach((way, k) => {
      expect(Math.abs(small[k]! - way)).toBeLessThan(0.05 + 0.05 * way)
      expect(Math.abs(large[k]! - way)).toBeLessThan(0.05 + 0.05 * way)
    })
  })
})

test.each(RECIPES.map((recipe) => [recipe.label, recipe] as const))(
  '%s is written beside what is there: ids and names of its own, more frames, the camera stays',
  (_, recipe) => {
    const once = written(recipe, TRIALS[recipe.id]!.meshes, 1).shot
    const start = {
      ...once,
      frames: { ...once.frames, last: 30 },
      stage: { ...once.stage, backdrop: 'paper' },
    }
    const { shot } = written(recipe, TRIALS[recipe.id]!.meshes, 1, start)
    expect(shot.populations.length).toBe(2 * once.populations.length)
    for (const list of [shot.meshes, shot.masks, shot.populations])
      for (const key of ['id', 'name'] as const) expect(new Set(list.map((one) => one[key])).size).toBe(list.length) // prettier-ignore
    expect([shot.frames.last, shot.stage]).toEqual([once.frames.last, start.stage])
    expect(liftedValues(shot).every(({ path }) => path[0] !== 'populations' || (path[1] as number) >= once.populations.length)).toBe(true) // prettier-ignore
  },
)
