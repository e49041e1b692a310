/** Bonds break where the tension in them is more than they bear: the worst first, then whatever can't bear what is left to it. */
import { bondBits, MOST_BITS } from '../geometry/pieces.ts'
import { disjointSets } from '../math/disjointSets.ts'
import { quaternionOf, rotate } from '../math/quaternion.ts'
import { add, cross, length, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { meshOfPiece, numberOfPiece } from '../scene/pieces.ts'
import { BOND } from './bondKind.ts'
import { balance, latticeOf, tensions, type Lattice, type LatticeBond } from './bondLattice.ts'
import { balanced, feltLoads, type Loads } from './bondLoads.ts'
import { breakBond, type Bonds } from './bonds.ts'
import type { ConstraintMoment } from './constraint.ts'
import type { Moving } from './rigidBodies.ts'
import { pressing } from './rigidContacts.ts'
import type { Mover } from './rigidGroups.ts'
import { sixesOf, type RigidWorld, type StressMemory } from './rigidWorld.ts'

/** In one substep a crack goes on at most so often. */
const MOST_ROUNDS = 4
/** Together with the worst bond break those that are so near to it. */
const AS_BAD = 0.5
/** Loads that may have brought bonds to this share of what they bear are looked at. */
const LOOK_AT = 0.7
/** A load on one piece may bring its bonds so much nearer to breaking than the same load did on all. */
const UNEVEN = 8

/** Asks all bodies what their bonds bear. What a blow has broken is hit again in the next substep, piece by piece. */
export function breakUnderLoad(world: RigidWorld, all: Moving[], moment: ConstraintMoment): void {
  const asked = all.filter(({ impulses }) => impulses)
  if (asked.length === 0) return
  const within = bondsOfMovers(asked.map(({ mover }) => mover))
  for (const moving of asked) {
    const { mover } = moving
    const own = within.get(mover) ?? []
    if (own.length === 0) continue
    // who sleeps bears what it bore as it fell asleep, but its bonds may have become weaker
    const sleeps = 'asleep' in moving.driven
    if (sleeps && mover.memory.loads.length === 0) continue
    const felt = sleeps ? mover.memory.loads.slice() : feltLoads(moving, mover.bonds!.rule.blow, moment)
    const worst = load(mover, own, felt, moment)
    // bonds that broke have passed on no more than they bear
    if (worst > 1 && isHit(moving)) takeBack(world, all, moving, 1 / worst, moment)
  }
}

const isHit = ({ impulses, touches }: Moving): boolean => touches.length > 0 || impulses!.some((x) => x !== 0)

/** The bonds that act, by the body of either end; the other one may be of a piece that is held. */
function bondsOfMovers(movers: Mover[]): Map<Mover, number[]> {
  const found = new Map<Mover, number[]>()
  for (const bonds of new Set(movers.map((one) => one.bonds!))) {
    const ofRow: (Mover | undefined)[] = []
    for (const mover of movers) if (mover.bonds === bonds) for (const row of mover.rows) ofRow[row] = mover
    bonds.strength.forEach((strength, k) => {
      if (strength === 0) return
      const [a, b] = [ofRow[bonds.rowsA[k]!], ofRow[bonds.rowsB[k]!]]
      const mover = a ?? b
      // between two bodies there is none that acts; a held one on the other side bears all
      if (!mover || (a && b && a !== b)) return
      const other = a ? bonds.rowsB[k]! : bonds.rowsA[k]!
      if (a !== b && bonds.free[other] !== 0) return
      const known = found.get(mover)
      if (known) known.push(k)
      else found.set(mover, [k])
    })
  }
  return found
}

/** Loads the bonds of a body and breaks what can't bear it. @returns the highest share of what a bond bears */
function load(mover: Mover, own: number[], felt: Loads, moment: ConstraintMoment): number {
  const { memory, bonds } = mover
  const whole: Cluster = { parts: memory.parts.map((_, k) => k), bonds: own }
  const acting = actingOn(mover, whole, felt)
  const strengths = Float64Array.from(own, (k) => bonds!.strength[k]!)
  const known = memory.stress && sameBonds(memory.stress, own, strengths) ? memory.stress : null
  const size = sizeOf(acting)
  const tiny = 1e-3 * sizeOf(felt)
  if (known) {
    const change = sizeOf(acting.map((x, i) => x - known.loads[i]!))
    // no bond can have come near to breaking
    if (change <= tiny || known.peak + UNEVEN * known.perNewton * change < LOOK_AT) return known.peak
  }
  const moved = known ? known.moved : new Float64Array(felt.length)
  const found = bear(mover, whole, felt, moved)
  const stress = { bonds: Int32Array.from(own), strengths, loads: acting, moved }
  if (!found) {
    // it goes on in the next substep
    memory.stress = { ...stress, peak: 0, perNewton: Infinity }
    return 0
  }
  memory.stress = { ...stress, peak: found.worst, perNewton: size > tiny ? found.worst / size : Infinity }
  const { table } = bonds!
  found.shares.forEach((share, n) => (table.load[own[n]!] = Math.min(1, share)))
  table.most = Math.max(table.most, found.worst)
  if (found.worst > 1) crack(mover, [{ cluster: whole, found, moved }], felt, moment)
  return found.worst
}

/** Pieces of a body, by their number in it, and the bonds between them. */
interface Cluster {
  parts: number[]
  bonds: number[]
}
/** The share of what it bears that each bond bears. */
interface Borne {
  shares: Float64Array
  worst: number
}

/** What the bonds of a cluster bear; null where that could not be found in time. */
function bear(mover: Mover, cluster: Cluster, loads: Loads, moved: Float64Array): Borne | null {
  const { strength } = mover.bonds!
  const lattice = lay(mover, cluster)
  if (!balance(lattice, actingOn(mover, cluster, loads), sixesOf(cluster.parts, loads), moved)) return null
  const shares = tensions(lattice, moved).map((tension, n) => tension / strength[cluster.bonds[n]!]!)
  return { shares, worst: shares.reduce((a, b) => Math.max(a, b), 0) }
}

/** The loads of a cluster alone; where no held piece bears them, without what they take to speed it up. */
function actingOn({ memory, bonds }: Mover, cluster: Cluster, loads: Loads): Loads {
  const { free, rowsA, rowsB } = bonds!
  const own = sixesOf(cluster.parts, loads)
  const held = cluster.bonds.some((k) => !free[rowsA[k]!] || !free[rowsB[k]!])
  return held ? own : balanced(cluster.parts.map((k) => memory.parts[k]!), own) // prettier-ignore
}

function lay(mover: Mover, { parts, bonds: own }: Cluster): Lattice {
  const { memory, rows } = mover
  const bonds = mover.bonds!
  const { pieces } = bonds.member
  const numbers = new Map(parts.map((k, n) => [rows[k]!, n]))
  const first = memory.parts[parts[0]!]!
  const broken = bonds.meshes.get(meshOfPiece(pieces[rows[parts[0]!]!]!))!
  // from the mesh's frame to the body's
  const home = (row: number): Vector => broken.masses[numberOfPiece(pieces[row]!)]!.centre
  const shift = subtract(first.offset, home(rows[parts[0]!]!))
  const lattice = own.map((k): LatticeBond => {
    const [rowA, rowB] = [bonds.rowsA[k]!, bonds.rowsB[k]!]
    const face = broken.face(bonds.table.face[k]!)
    const placed = { ...face, centre: add(face.centre, shift) }
    const [a, b] = [numbers.get(rowA), numbers.get(rowB)]
    if (a !== undefined && b !== undefined) return { a, b, face: placed }
    if (a !== undefined) return { a, b: -1, held: add(home(rowB), shift), face: placed }
    return { a: b!, b: -1, held: add(home(rowA), shift), face: { ...placed, normal: scale(placed.normal, -1) } }
  }) // prettier-ignore
  return latticeOf(parts.map((k) => memory.parts[k]!.offset), lattice) // prettier-ignore
}

/** Breaks the worst bonds, lets the pieces that still hang together bear what is left, and so on. */
function crack(
  mover: Mover,
  waiting: { cluster: Cluster; found: Borne; moved: Float64Array }[],
  loads: Loads,
  moment: ConstraintMoment,
): void {
  const bonds = mover.bonds!
  for (let round = 0; round < MOST_ROUNDS && waiting.length > 0; round++) {
    const next: typeof waiting = []
    for (const { cluster, found, moved } of waiting) {
      const place = new Map(cluster.parts.map((k, n) => [k, n]))
      const limit = Math.max(1, AS_BAD * found.worst)
      const left = cluster.bonds.filter((k, n) => {
        if (found.shares[n]! < limit) return true
        breakBond(bonds, k, 0, moment)
        return false
      })
      for (const part of partsOf(mover, { parts: cluster.parts, bonds: left })) {
        const from = sixesOf(
          part.parts.map((k) => place.get(k)!),
          moved,
        )
        const borne = bear(mover, part, loads, from)
        if (!borne) continue
        borne.shares.forEach((share, n) => (bonds.table.load[part.bonds[n]!] = Math.min(1, share)))
        if (borne.worst > 1) next.push({ cluster: part, found: borne, moved: from })
      }
    }
    waiting = next
  }
}

/** What hangs together of a cluster, without pieces that have no bond left. */
function partsOf({ rows, bonds }: Mover, { parts, bonds: own }: Cluster): Cluster[] {
  const numbers = new Map(parts.map((k) => [rows[k]!, k]))
  const sets = disjointSets(rows.length)
  const ends = (k: number) => [numbers.get(bonds!.rowsA[k]!), numbers.get(bonds!.rowsB[k]!)]
  for (const k of own) {
    const [a, b] = ends(k)
    if (a !== undefined && b !== undefined) sets.join(a, b)
  }
  const found = new Map<number, Cluster>()
  const clusterOf = (root: number): Cluster => {
    if (!found.has(root)) found.set(root, { parts: [], bonds: [] })
    return found.get(root)!
  }
  for (const k of parts) clusterOf(sets.rootOf(k)).parts.push(k)
  for (const k of own) clusterOf(sets.rootOf((ends(k)[0] ?? ends(k)[1])!)).bonds.push(k)
  return [...found.values()].filter((one) => one.bonds.length > 0)
}

/** Strengths that differ by less than this share count as the same. */
const SAME_STRENGTH = 0.01
const sameBonds = ({ bonds, strengths }: StressMemory, own: number[], now: Float64Array): boolean =>
  bonds.length === own.length &&
  own.every((k, n) => bonds[n] === k && Math.abs(strengths[n]! - now[n]!) <= SAME_STRENGTH * strengths[n]!)

const sizeOf = (loads: Loads): number => {
  let sum = 0
  for (let k = 0; k < loads.length / 6; k++) sum += length(vectorOf(loads, k * 2))
  return sum
}

/**
 * A body whose bonds broke, and all that press on it or on one another there, go on as before the blow but for the share of it that bonds
 * passed on: they meet again in the next substep, as the pieces that they are then. Momentum is kept, for all go back alike.
 */
function takeBack(
  world: RigidWorld,
  all: Moving[],
  from: Moving,
  share: number,
  moment: ConstraintMoment,
): void {
  const byHandle = new Map(all.map((one) => [one.mover.memory.handle, one]))
  const reached = new Set([from])
  for (const one of reached)
    for (const handle of pressing(world, one.mover.memory)) {
      const other = byHandle.get(handle)
      if (other && !('held' in other.driven)) reached.add(other)
    }
  for (const { mover, driven, before } of reached) {
    if ('held' in driven) continue
    const { memory, member: { columns }, rows } = mover // prettier-ignore
    const gained = 'asleep' in driven ? ([0, 0, 0] as Vector) : scale(driven.acceleration, moment.h)
    const towards = (unhit: Vector, hit: Vector): Vector => add(unhit, scale(subtract(hit, unhit), share))
    memory.parts.forEach(({ offset }, k) => {
      const row = rows[k]!
      const arm = rotate(quaternionOf(columns.orientation, row), subtract(offset, memory.centre))
      const unhit = add(add(before.velocity, gained), cross(before.spin, arm))
      writeVector(columns.velocity, row, towards(unhit, vectorOf(columns.velocity, row)))
      writeVector(columns.angularVelocity, row, towards(before.spin, vectorOf(columns.angularVelocity, row)))
    })
  }
  const { memory } = from.mover
  memory.loads = memory.loads.map((x) => x * share)
}

/** Tells particles which of their bonds hold and the highest share of what one bears. */
export function showBonds({ member, table, meshes, rowsA, rowsB }: Bonds): void {
  const { stress, bonds } = member.bondColumns!
  stress.fill(0)
  bonds.fill(0)
  table.state.forEach((state, k) => {
    const [a, b] = [rowsA[k]!, rowsB[k]!]
    if (state !== BOND.whole) return
    const bit = bondBits(meshes.get(table.mesh[k]!)!.mesh)[table.face[k]!]!
    if (bit < MOST_BITS) bonds[a] = (bonds[a]! | (1 << bit)) >>> 0
    for (const row of [a, b]) stress[row] = Math.max(stress[row]!, table.load[k]!)
  })
}
