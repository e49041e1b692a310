/** Where the places are that particles are paired with: at both ends of a substep, and how far off. */
import { goalAttributes } from '../state/attributes.ts'
import type { Goal } from '../document/types.ts'
import { writeVector } from '../math/vector.ts'
import { bends, piecePose } from '../scene/piecePoses.ts'
import { meshOfPiece, numberOfPiece } from '../scene/pieces.ts'
import type { TargetPointers } from '../scene/points.ts'
import { words } from '../state/columns.ts'
import type { PopulationState, World } from './world.ts'

/** Numbers of populations follow those of bodies. */
export const numberOf = ({ shot }: World, population: string): number =>
  shot.meshes.length + 1 + shot.populations.findIndex((one) => one.id === population)

/** Pointers to the targets of particles, until they are freed. */
export interface Targets extends TargetPointers {
  free(): void
}

/**
 * The places of a population's goal, or without one the places on the meshes where the particles were born.
 * @param part of the way of this substep that lies behind the particles that goals are on: their `position` is
 *   ½ of the way before it is integrated, then 1
 */
export function targetsOf(
  world: World,
  run: PopulationState,
  goalId: string | undefined,
  { from, to }: { from: number; to: number },
  part: number,
): Targets {
  const { machine, bodies } = world
  const { heap } = machine
  const { columns, source } = run
  const n = source.goals.findIndex((one) => one.id === goalId)
  const goal = source.goals[n]
  const [on, at] = goal
    ? goalAttributes(n).map((name) => columns.at[name])
    : [columns.at.anchor, columns.at.anchorAt]
  const used = [...bodies.values()].filter((body) => !goal || goal.mesh === body.shotMesh.id)
  const start = heap.allocate(columns.count * 12)
  const still = goal?.population === undefined && used.every((body) => !body.moves)
  const end = still ? start : heap.allocate(columns.count * 12)
  const onMeshes = (frame: number, out: number): void => {
    for (const body of used)
      machine.run('anchorPoints', columns.count, {
        body: body.number,
        anchor: on!,
        anchorAt: at!,
        positions: body.worldAt(frame),
        triangles: body.triangles(),
        map: body.mapAt(frame),
        out,
      })
  }
  const homes = (frame: number, out: number): void => {
    onMeshes(frame, out)
    if (!goal) placeOnPieces(world, run, frame, out)
  }
  homes(from, start)
  if (!still) homes(to, end)
  if (typeof goal?.population === 'string') {
    const place = { count: columns.count, goal: on!, of: goal.population }
    placeOnMembers(world, place, 0, start)
    placeOnMembers(world, place, 1 / part, end)
  }
  return {
    on: on!,
    from: start,
    to: end,
    free() {
      heap.free(start)
      if (!still) heap.free(end)
    },
  }
}

/** The homes of pieces of meshes that do not keep their shape: there each goes as its own vertices do. */
function placeOnPieces({ machine, bodies, shot }: World, { columns }: PopulationState, frame: number, out: number): void {
  if (!columns.at.piece || ![...bodies.values()].some(bends)) return
  const places = machine.heap.f32(out, columns.count * 3)
  words(columns, 'piece').forEach((piece, i) => {
    const body = piece > 0 ? bodies.get(shot.meshes[meshOfPiece(piece)]!.id) : undefined
    if (body && bends(body)) writeVector(places, i, piecePose(body, numberOfPiece(piece), frame).place)
  })
} // prettier-ignore

/** The places of particles whose goals are on those of a population, `part` of the way of this substep on. */
function placeOnMembers(
  world: World,
  { count, goal, of }: { count: number; goal: number; of: string },
  part: number,
  out: number,
): void {
  const { columns } = world.populations.find((one) => one.source.id === of)!
  const { id, startPosition, position } = columns.at
  const number = numberOf(world, of)
  const members = { ids: id, count: columns.count, startPosition, position }
  world.machine.run('memberPoints', count, { number, goal, ...members, part, out })
}

/** Where some particles want to go, at a frame: for the stage. */
export interface GoalSample {
  /** Id of the goal; empty: the places where they were born. */
  goal: string
  ids: Uint32Array
  /** x, y, z in metres. */
  places: Float32Array
}

/** The places of about `most` particles of a goal: always the same ones while their number stays. */
export function sampleGoal(
  world: World,
  run: PopulationState,
  goal: Goal | undefined,
  frame: number,
  most: number,
): GoalSample {
  const { count, at } = run.columns
  const places = targetsOf(world, run, goal?.id, { from: frame, to: frame }, 1)
  const all = world.machine.heap.f32(places.to, count * 3)
  const on = world.machine.heap.u32(places.on, count * 2)
  const ids = world.machine.heap.u32(at.id, count)
  const share = (most / Math.max(1, count)) * 2 ** 32
  const chosen: number[] = []
  for (let i = 0; i < count; i++)
    if (on[i * 2] !== 0 && Math.imul(ids[i]!, 0x9e3779b1) >>> 0 <= share) chosen.push(i)
  const out = new Float32Array(chosen.length * 3)
  chosen.forEach((i, k) => out.set(all.subarray(i * 3, i * 3 + 3), k * 3))
  const sample = { goal: goal?.id ?? '', ids: Uint32Array.from(chosen, (i) => ids[i]!), places: out }
  places.free()
  return sample
}

/** Distance of each particle to its goal (or its place of birth) where they are now, metres; −1 for those without. */
export function goalDistances(
  world: World,
  run: PopulationState,
  goalId: string | undefined,
  frame: number,
): Float32Array {
  const { heap } = world.machine
  const { count, at } = run.columns
  // both ends are this moment: particles that goals are on have come all their way
  const places = targetsOf(world, run, goalId, { from: frame, to: frame }, 1)
  const out = heap.allocate(count * 4)
  world.machine.run('goalDistances', count, { goal: places.on, position: at.position, at: places.to, out })
  const distances = heap.f32(out, count).slice()
  heap.free(out)
  places.free()
  return distances
}
