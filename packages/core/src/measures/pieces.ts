/** What is measured of rigid bodies: where they reach into what they hit, lie stuck, and how far they are from home. */
import { depths as depthsIn } from '../constraints/colliders.ts'
import { MESH_CONTACTS } from '../constraints/meshContacts.ts'
import type { Population } from '../document/types.ts'
import { dock } from '../influences/dock.ts'
import { rigid } from '../influences/rigid.ts'
import { conjugate, quaternionOf, rotate } from '../math/quaternion.ts'
import { add, vectorOf } from '../math/vector.ts'
import { bodyShapeOf, isRigid } from '../simulation/bodyShapes.ts'
import { constrained } from '../simulation/influencePass.ts'
import { goalDistances } from '../simulation/targets.ts'
import { momentAt, type PopulationState, type World } from '../simulation/world.ts'
import { floats, words } from '../state/columns.ts'

export interface PieceMeasures {
  /** At the first frame only: those that reach into what they hit, the worst by id, and how deep, m. */
  inside: { pieces: number; worst: number; depth: number } | null
  /** Less wide than a twentieth of the median. */
  crumbs: number
  /** Free for a second and more, and no farther from their place on the mesh than their own radius. */
  stuck: number
  /** In phases in which something leads them home. */
  homing: number
  /** Of those: at home to a tenth of a millimetre, or of their radius; and how far the farthest is, m. */
  docked: number
  farthest: number
}

const CRUMB = 0.05
const AT_HOME = 1e-4
/** Corners reach into things by so much of a radius before that counts. */
const REACHES_IN = 0.02

/** Null where no particle is a rigid body. */
export function measurePieces(
  world: World,
  population: PopulationState,
  frame: number,
): PieceMeasures | null {
  const { source, columns } = population
  if (!isRigid(source) || columns.count === 0) return null
  const [radius, phaseAge] = [floats(columns, 'radius'), floats(columns, 'phaseAge')]
  const phase = words(columns, 'phase')
  const median = [...radius].sort((a, b) => a - b)[radius.length >> 1]!
  const away = columns.at.anchor ? goalDistances(world, population, undefined, frame) : radius.map(() => -1)
  const [free, home] = [phasesWith(source, rigid.kind), phasesWith(source, dock.kind)]
  const measured = { crumbs: 0, stuck: 0, homing: 0, docked: 0, farthest: 0 }
  radius.forEach((r, i) => {
    if (r < CRUMB * median) measured.crumbs++
    if (away[i]! < 0) return
    if (free[phase[i]!] && phaseAge[i]! > 1 && away[i]! < r) measured.stuck++
    if (!home[phase[i]!]) return
    measured.homing++
    measured.farthest = Math.max(measured.farthest, away[i]!)
    if (away[i]! <= Math.min(AT_HOME, 0.1 * r)) measured.docked++
  })
  const opens = frame === world.shot.frames.first
  return { ...measured, inside: opens ? measureInside(world, population, frame) : null }
}

/** ½ ω·I·ω of all bodies, J. */
export function spinEnergy(world: World, population: PopulationState): number {
  const { columns } = population
  const [spins, turns, lightness] = [floats(columns, 'angularVelocity'), floats(columns, 'orientation'), floats(columns, 'inverseMass')] // prettier-ignore
  return lightness.reduce((sum, perMass, i) => {
    const { inertia, axes } = bodyShapeOf(population, world, i)
    const inBody = rotate(conjugate(axes), rotate(conjugate(quaternionOf(turns, i)), vectorOf(spins, i)))
    return sum + inBody.reduce((own, w, k) => own + inertia[k]! * w * w, 0) / (2 * perMass)
  }, 0)
}

/** Per phase, whether an influence of a kind acts in it. */
const phasesWith = ({ influences, phases }: Population, kind: string): boolean[] =>
  phases.map((phase) =>
    influences.some((one) => !one.muted && one.kind === kind && (one.weights[phase] ?? 0) > 0),
  )

/** How deep the corners of bodies are in what their population hits in any of its phases. */
function measureInside(world: World, population: PopulationState, frame: number): PieceMeasures['inside'] {
  const { columns } = population
  const { machine } = world
  const { corners, owners } = cornersOf(world, population)
  const at = machine.heap.allocate(corners.length * 4)
  machine.heap.f32(at, corners.length).set(corners)
  const [radius, depths] = [floats(columns, 'radius'), new Float64Array(columns.count)]
  for (const { rule: collider, free } of constrained(population, momentAt(world, frame)).feeds(
    MESH_CONTACTS,
  )) {
    const { distance } = depthsIn(machine, collider, frame, at, owners.length, Math.max(...radius))
    if (collider.side !== 0) owners.forEach((i, n) => (depths[i] = Math.max(depths[i]!, -distance[n]!)))
    free()
  }
  machine.heap.free(at)
  const inside = [...depths.keys()].filter((i) => depths[i]! > REACHES_IN * radius[i]!)
  const worst = inside.reduce((a, b) => (depths[b]! > depths[a]! ? b : a), inside[0] ?? 0)
  return { pieces: inside.length, worst: words(columns, 'id')[worst]!, depth: depths[worst]! }
}

/** The corners of bodies in the world, and which particle each is of. */
function cornersOf(world: World, population: PopulationState) {
  const { columns } = population
  const [position, orientation] = [floats(columns, 'position'), floats(columns, 'orientation')]
  const corners: number[] = []
  const owners: number[] = []
  for (let i = 0; i < columns.count; i++) {
    for (const points of bodyShapeOf(population, world, i).hulls)
      for (let c = 0; c < points.length / 3; c++) {
        corners.push(...add(vectorOf(position, i), rotate(quaternionOf(orientation, i), vectorOf(points, c))))
        owners.push(i)
      }
  }
  return { corners, owners }
}
