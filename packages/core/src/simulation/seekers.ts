/** Who goes where: particles are paired with the places of their goals as they are born. */
import type { GoalContext, Places, Seekers } from '../goals/goal.ts'
import { seedFrom } from '../math/random.ts'
import type { Vector } from '../math/vector.ts'
import { NO_PLACE, pairUp } from '../pairing/index.ts'
import { nearestPlaces } from '../pairing/nearest.ts'
import { valuesAt } from '../document/keys.ts'
import type { Goal } from '../document/types.ts'
import { floats, view, words, type Columns } from '../state/columns.ts'
import { goalAttributes } from '../state/attributes.ts'
import { RIGID, type Points } from '../scene/points.ts'
import { birthKind, goalKind } from '../registry.ts'
import { worldPoints } from './birthPlaces.ts'
import { insideDeformed } from './deformedInside.ts'
import { openPlaces } from './occupiedTargets.ts'
import { numberOf } from './targets.ts'
import type { PopulationState, World } from './world.ts'

/**
 * Pairs those that wait for a place: [0, 0] in their goal's column. [0, 1] stands for one that goes without. Who finds
 * no places at all goes on waiting.
 */
export function pairSeekers(world: World, run: PopulationState, frame: number): void {
  run.source.goals.forEach((goal, n) => {
    const [columnGoal] = goalAttributes(n)
    const columns = words(run.columns, columnGoal)
    const waiting: number[] = []
    for (let i = 0; i < run.columns.count; i++)
      if (columns[i * 2] === 0 && columns[i * 2 + 1] === 0) waiting.push(i)
    if (waiting.length > 0) pair(world, run, goal, n, Uint32Array.from(waiting), frame)
  })
}

function pair(
  world: World,
  run: PopulationState,
  goal: Goal,
  n: number,
  waiting: Uint32Array,
  frame: number,
): void {
  const { machine } = world
  const count = waiting.length
  const kind = goalKind(goal.kind)
  const values = valuesAt(kind.parameters, goal, frame) as unknown as { pairing: string; direction: Vector }
  const ids = view(run.columns, 'id')
  const positions = machine.heap.allocate(count * 12)
  const here = machine.heap.f32(positions, count * 3)
  const alive = floats(run.columns, 'position')
  waiting.forEach((i, k) => here.set(alive.subarray(i * 3, i * 3 + 3), k * 3))
  const seekers: Seekers = {
    ids: waiting.map((i) => ids[i]!),
    positions,
    uvs: () => bornAt(world, run.columns, waiting),
  }
  const seed = seedFrom(run.seed, goal.id)
  const places = kind.places(values as never, contextOf(world, seekers, seed, frame))
  const offered = sizeOf(places)
  if (offered > 0) {
    const all = positionsOf(world, places, frame)
    // several may want the nearest
    const open =
      places.lasting && values.pairing !== 'nearest'
        ? openPlaces(run.columns, n, places, count, goal.spare === 'none')
        : null
    const task = {
      seekers: machine.heap.f32(positions, count * 3).slice(),
      places: open
        ? Float32Array.from(
            { length: open.length * 3 },
            (_, k) => all[open[Math.floor(k / 3)]! * 3 + (k % 3)]!,
          )
        : all,
      ids: seekers.ids,
      seed,
      direction: values.direction,
      share: goal.spare !== 'none',
    }
    const chosen = places.own
      ? waiting.map((_, k) => k)
      : values.pairing === 'nearest'
        ? nearestPlaces(machine, task)
        : pairUp(values.pairing as 'random' | 'order' | 'least', task)
    const place = open ? chosen.map((p) => (p === NO_PLACE ? p : open[p]!)) : chosen
    assign(run.columns, n, places, waiting, place)
  }
  machine.heap.free(positions)
}

const sizeOf = ({ points }: Places): number => ('ids' in points ? points.ids.length : points.triangles.length)

function assign(
  columns: Columns,
  n: number,
  { on, points }: Places,
  waiting: Uint32Array,
  chosen: Uint32Array,
): void {
  const [goal, at] = goalAttributes(n)
  const [goals, ats] = [words(columns, goal), floats(columns, at)]
  waiting.forEach((i, k) => {
    const p = chosen[k]!
    if (p === NO_PLACE) return void goals.set([0, 1], i * 2)
    if ('ids' in points) return void goals.set([on, points.ids[p]!], i * 2)
    const triangle = points.triangles[p]!
    goals.set([on, triangle], i * 2)
    if (triangle === RIGID) ats.set(points.positions!.subarray(p * 3, p * 3 + 3), i * 3)
    else ats.set([points.weights[p * 2]!, points.weights[p * 2 + 1]!, points.heights?.[p] ?? points.height ?? 0], i * 3) // prettier-ignore
  })
}

/** Where the places are now, in the world. */
function positionsOf({ bodies }: World, { on, points }: Places, frame: number): Float32Array {
  if ('ids' in points) return points.positions
  const body = [...bodies.values()].find((one) => one.number === on)!
  return Float32Array.from(worldPoints({ body, view: [0, 0, 0] }, frame, points))
}

function contextOf(world: World, seekers: Seekers, seed: number, frame: number): GoalContext {
  const { machine, bodies, masks } = world
  return {
    machine,
    seekers,
    frame,
    seed,
    body: (mesh) => bodies.get(mesh)!,
    birthPoints(meshId, kindName, values, batch = '') {
      const body = bodies.get(meshId)!
      const { mesh, facts, normals, restTree } = body
      const source = birthKind(kindName).prepare!(values as never, {
        machine,
        mesh,
        facts,
        normals,
        tree: restTree,
        seed: batch === '' ? seed : seedFrom(seed, batch),
        scale: body.sizeAt(frame),
        sized: () => body.sizedAt(frame),
        maskAt: (mask) => masks.atVertices(mask, body, frame),
      })
      const height = (values.offset as number | undefined) ?? 0
      const points = (ids: Uint32Array, turns?: Uint32Array): Points =>
        insideDeformed(machine, body, frame, { ...source.points(ids, turns), height })
      return { ...source, points }
    },
    members(population) {
      const other = world.populations.find((one) => one.source.id === population)!
      return {
        number: numberOf(world, population),
        ids: (view(other.columns, 'id') as Uint32Array).slice(),
        positions: floats(other.columns, 'position').slice(),
      }
    },
  }
}

/** Texture coordinates of the places where particles were born. */
function bornAt({ bodies }: World, columns: Columns, which: Uint32Array): Float32Array | null {
  const [anchor, at] = [words(columns, 'anchor'), floats(columns, 'anchorAt')]
  const byNumber = new Map([...bodies.values()].map((body) => [body.number, body.mesh.uvs]))
  const out = new Float32Array(which.length * 2)
  let any = false
  which.forEach((i, k) => {
    const uvs = byNumber.get(anchor[i * 2]!)
    const triangle = anchor[i * 2 + 1]!
    if (!uvs || triangle === RIGID) return
    any = true
    for (let c = 0; c < 2; c++) {
      const [a, b, d] = [0, 2, 4].map((corner) => uvs[triangle * 6 + corner + c]!) as [number, number, number]
      out[k * 2 + c] = a + (b - a) * at[i * 3]! + (d - a) * at[i * 3 + 1]!
    }
  })
  return any ? out : null
}
