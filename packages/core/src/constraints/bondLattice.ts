/**
 * What bonds bear: pieces as rigid bodies, each bond an elastic interface where they share a face, and the displacements that balance the
 * loads on all of them. Stiffnesses follow from the face and the way between the centres, so that cells of any shape stretch evenly.
 * Sources: Kawai, "New discrete models and their application to seismic response analysis of structures" (1978); Bolander, Saito,
 * "Fracture analyses using spring networks with random geometry" (1998); the stress at the edge of a bond: Potyondy, Cundall, "A bonded-
 * particle model for rock" (2004).
 */
import { dot, subtract, type Vector } from '../math/vector.ts'
import { invert, solveBlocks, type BlockSystem } from './blockCholesky.ts'

/** The face that two pieces share, in a frame that moves with both, metres. */
export interface BondFace {
  centre: Vector
  /** From the first to the second. */
  normal: Vector
  /** About which it bends most easily. */
  axis: Vector
  /** m² */
  area: number
  /** Second moments about that axis and about the one across, m⁴, and how far it reaches from each, m. */
  moments: [weak: number, stiff: number, weakReach: number, stiffReach: number]
}

/** A bond between pieces a and b; b = −1: what holds it does not give way, and has its centre at `held`. */
export interface LatticeBond {
  a: number
  b: number
  held?: Vector
  face: BondFace
}

export interface Lattice {
  pieces: number
  bonds: LatticeBond[]
  /** Per bond: where the six numbers of a and of b begin; b < 0: it is held. */
  ends: Int32Array
  /** Per bond: from the centre of a and of b to the face, 3 + 3. */
  arms: Float64Array
  /** Per bond: stiffness against parting and sliding, per modulus: area over length, m. */
  along: Float64Array
  /** Per bond: stiffness against turning xx, yy, zz, xy, yz, zx, m³. */
  turning: Float64Array
}

/** Loads and displacements of pieces: a force and a torque about the centre, a shift and a turn; 6 each. */
const SIX = 6
/** What is left of the loads when they count as balanced, as a share of all that acts. */
const BALANCED = 3e-4
/** Rounds after which it is worth while to eliminate. */
const FEW_ROUNDS = 120
/** At most so many bonds are visited: what is not balanced by then goes on from there in the next substep. */
const MOST_WORK = 2e6
/** Fewer bonds a piece make a rod, a plate or a shell. */
const THIN = 4.5
/** Multiplications of an elimination: more take longer than conjugate gradients. */
const MOST_DIRECT = 1.5e8

export function latticeOf(centres: Vector[], bonds: LatticeBond[]): Lattice {
  const arms = new Float64Array(bonds.length * 6)
  const along = new Float64Array(bonds.length)
  const turning = new Float64Array(bonds.length * 6)
  bonds.forEach(({ a, b, held, face }, k) => {
    const [from, to] = [centres[a]!, b < 0 ? held! : centres[b]!]
    const [p, q] = [subtract(face.centre, from), subtract(face.centre, to)]
    arms.set([...p, ...q], k * 6)
    const way = subtract(to, from)
    // a way along the face would be no way at all
    const reach = Math.max(Math.abs(dot(way, face.normal)), 0.1 * Math.sqrt(dot(way, way)), 1e-12)
    along[k] = face.area / reach
    turning.set(turningOf(face).map((x) => x / reach), k * 6) // prettier-ignore
  })
  const ends = Int32Array.from(bonds.flatMap(({ a, b }) => [a * SIX, b * SIX]))
  return { pieces: centres.length, bonds, ends, arms, along, turning }
}

/** Against bending about both axes of the face, and against twisting, with a modulus of shear of half the other. */
function turningOf({ normal: n, axis: u, moments: [weak, stiff] }: BondFace): number[] {
  const v: Vector = [n[1] * u[2] - n[2] * u[1], n[2] * u[0] - n[0] * u[2], n[0] * u[1] - n[1] * u[0]]
  const twist = (weak + stiff) / 2
  return PLACES.map(([i, j]) => weak * u[i] * u[j] + stiff * v[i] * v[j] + twist * n[i] * n[j])
}
const PLACES = [[0, 0], [1, 1], [2, 2], [0, 1], [1, 2], [2, 0]] as const // prettier-ignore

/**
 * Displacements under loads that balance one another, or that what holds bears: by elimination of what is long or thin, by conjugate gradients
 * of what is thick.
 * @param all the loads with what speeds the whole up: rounding in these is no load
 * @param moved where it begins, and what comes out @returns whether they are balanced
 */
export function balance(
  lattice: Lattice,
  loads: Float64Array,
  all: Float64Array,
  moved: Float64Array,
): boolean {
  const diagonal = diagonalOf(lattice)
  const inverses = new Float64Array(diagonal.length)
  for (let p = 0; p < lattice.pieces; p++)
    inverses.set(invert(diagonal.subarray(p * 36, p * 36 + 36)), p * 36)
  const guess = new Float64Array(lattice.pieces * SIX)
  const least = BALANCED * BALANCED * weighed(inverses, all, all, guess)
  if (weighed(inverses, loads, loads, guess) <= least) {
    moved.fill(0)
    return true
  }
  if (lattice.bonds.every(({ b }) => b >= 0)) ground(diagonal, 0)
  const system = systemOf(lattice, diagonal)
  const isThin = lattice.bonds.length < THIN * lattice.pieces
  return (
    (isThin && eliminate(system, loads, moved, MOST_DIRECT)) ||
    descend(lattice, inverses, loads, moved, least, FEW_ROUNDS) ||
    eliminate(system, loads, moved, MOST_DIRECT) ||
    descend(lattice, inverses, loads, moved, least, Math.ceil(MOST_WORK / lattice.bonds.length))
  )
}

/** False, and nothing done, where it takes more than so many multiplications. */
function eliminate(system: BlockSystem, loads: Float64Array, moved: Float64Array, most: number): boolean {
  const values = loads.slice()
  const solved = solveBlocks(system, values, most)
  if (solved) moved.set(values)
  return solved
}

/** Conjugate gradients with the inverse blocks. */
function descend(
  lattice: Lattice,
  inverses: Float64Array,
  loads: Float64Array,
  moved: Float64Array,
  least: number,
  rounds: number,
): boolean {
  const size = lattice.pieces * SIX
  const [rest, guess, way, image] = [0, 1, 2, 3].map(() => new Float64Array(size)) as [
    Float64Array, Float64Array, Float64Array, Float64Array,
  ] // prettier-ignore
  resist(lattice, moved, image)
  for (let i = 0; i < size; i++) rest[i] = loads[i]! - image[i]!
  let left = weighed(inverses, rest, rest, guess)
  way.set(guess)
  for (let n = 0; n < rounds && left > least; n++) {
    resist(lattice, way, image)
    let slope = 0
    for (let i = 0; i < size; i++) slope += way[i]! * image[i]!
    if (!(slope > 0)) return false
    const step = left / slope
    for (let i = 0; i < size; i++) {
      moved[i] = moved[i]! + step * way[i]!
      rest[i] = rest[i]! - step * image[i]!
    }
    const next = weighed(inverses, rest, rest, guess)
    const share = next / left
    for (let i = 0; i < size; i++) way[i] = guess[i]! + share * way[i]!
    left = next
  }
  return left <= least
}

/** The product of two loads through the inverse blocks; the second one's image is written to `out`. */
function weighed(inverses: Float64Array, a: Float64Array, b: Float64Array, out: Float64Array): number {
  let sum = 0
  for (let p = 0; p < inverses.length / 36; p++) {
    const [row, block] = [p * SIX, p * 36]
    for (let i = 0; i < SIX; i++) {
      let value = 0
      for (let j = 0; j < SIX; j++) value += inverses[block + i * SIX + j]! * b[row + j]!
      out[row + i] = value
      sum += a[row + i]! * value
    }
  }
  return sum
}

/** What bonds do to pieces that are displaced so: opposite loads would hold them there. */
function resist({ ends, arms, along, turning }: Lattice, moved: Float64Array, out: Float64Array): void {
  out.fill(0)
  for (let k = 0; k < along.length; k++) {
    const [a, b, at] = [ends[k * 2]!, ends[k * 2 + 1]!, k * 6]
    const [px, py, pz] = [arms[at]!, arms[at + 1]!, arms[at + 2]!]
    const [qx, qy, qz] = [arms[at + 3]!, arms[at + 4]!, arms[at + 5]!]
    // how far b parts from a at the face, and turns against it
    const [ax, ay, az] = [moved[a + 3]!, moved[a + 4]!, moved[a + 5]!]
    let gx = -ax
    let gy = -ay
    let gz = -az
    let fx = az * py - ay * pz - moved[a]!
    let fy = ax * pz - az * px - moved[a + 1]!
    let fz = ay * px - ax * py - moved[a + 2]!
    if (b >= 0) {
      const [bx, by, bz] = [moved[b + 3]!, moved[b + 4]!, moved[b + 5]!]
      gx += bx
      gy += by
      gz += bz
      fx += moved[b]! + by * qz - bz * qy
      fy += moved[b + 1]! + bz * qx - bx * qz
      fz += moved[b + 2]! + bx * qy - by * qx
    }
    const s = along[k]!
    fx *= s
    fy *= s
    fz *= s
    const mx = turning[at]! * gx + turning[at + 3]! * gy + turning[at + 5]! * gz
    const my = turning[at + 3]! * gx + turning[at + 1]! * gy + turning[at + 4]! * gz
    const mz = turning[at + 5]! * gx + turning[at + 4]! * gy + turning[at + 2]! * gz
    out[a] = out[a]! - fx
    out[a + 1] = out[a + 1]! - fy
    out[a + 2] = out[a + 2]! - fz
    out[a + 3] = out[a + 3]! - mx - (py * fz - pz * fy)
    out[a + 4] = out[a + 4]! - my - (pz * fx - px * fz)
    out[a + 5] = out[a + 5]! - mz - (px * fy - py * fx)
    if (b < 0) continue
    out[b] = out[b]! + fx
    out[b + 1] = out[b + 1]! + fy
    out[b + 2] = out[b + 2]! + fz
    out[b + 3] = out[b + 3]! + mx + (qy * fz - qz * fy)
    out[b + 4] = out[b + 4]! + my + (qz * fx - qx * fz)
    out[b + 5] = out[b + 5]! + mz + (qx * fy - qy * fx)
  }
}

/** How far a bond parts at its face, and turns: b against a. */
const GAP = new Float64Array(6)
function parting({ bonds, arms }: Lattice, moved: Float64Array, k: number): void {
  const [a, b, at] = [bonds[k]!.a * SIX, bonds[k]!.b * SIX, k * 6]
  const [px, py, pz] = [arms[at]!, arms[at + 1]!, arms[at + 2]!]
  const [ax, ay, az] = [moved[a + 3]!, moved[a + 4]!, moved[a + 5]!]
  GAP[0] = -(moved[a]! + ay * pz - az * py)
  GAP[1] = -(moved[a + 1]! + az * px - ax * pz)
  GAP[2] = -(moved[a + 2]! + ax * py - ay * px)
  GAP[3] = -ax
  GAP[4] = -ay
  GAP[5] = -az
  if (b < 0) return
  const [qx, qy, qz] = [arms[at + 3]!, arms[at + 4]!, arms[at + 5]!]
  const [bx, by, bz] = [moved[b + 3]!, moved[b + 4]!, moved[b + 5]!]
  GAP[0] += moved[b]! + by * qz - bz * qy
  GAP[1] += moved[b + 1]! + bz * qx - bx * qz
  GAP[2] += moved[b + 2]! + bx * qy - by * qx
  GAP[3] += bx
  GAP[4] += by
  GAP[5] += bz
}

/** Greatest tension in each bond under displacements, Pa, from the modulus 1 with which these were found; 0 where it is only pressed. */
export function tensions(lattice: Lattice, moved: Float64Array): Float64Array {
  return Float64Array.from(lattice.bonds, ({ face }, k) => {
    parting(lattice, moved, k)
    const at = k * 6
    const t = (i: number): number => lattice.turning[at + i]!
    const [gx, gy, gz] = [GAP[3]!, GAP[4]!, GAP[5]!]
    const force = [0, 1, 2].map((i) => lattice.along[k]! * GAP[i]!) as Vector
    const moment: Vector = [
      t(0) * gx + t(3) * gy + t(5) * gz,
      t(3) * gx + t(1) * gy + t(4) * gz,
      t(5) * gx + t(4) * gy + t(2) * gz,
    ]
    return tensionAt(face, force, moment)
  })
}

/**
 * Greatest tension where a force and a moment go through a face: at its edge, where it bends, and in its middle, where it shears most
 * (3/2 of the mean, as in a rectangle). Source: Rankine's criterion and beam formulas, in Timoshenko, "Strength of materials".
 */
export function tensionAt(
  { normal: n, axis: u, area, moments }: BondFace,
  force: Vector,
  moment: Vector,
): number {
  const [weak, stiff, weakReach, stiffReach] = moments
  const pull = dot(force, n)
  const twist = dot(moment, n)
  const about = dot(moment, u)
  const across = Math.sqrt(Math.max(0, dot(moment, moment) - twist * twist - about * about))
  const shear = Math.sqrt(Math.max(0, dot(force, force) - pull * pull))
  const tiny = 1e-300
  const bent = (Math.abs(about) * weakReach) / (weak + tiny) + (across * stiffReach) / (stiff + tiny)
  const twisted = (Math.abs(twist) * Math.max(weakReach, stiffReach)) / (weak + stiff + tiny)
  return Math.max(0, rankine(pull / area + bent, twisted), rankine(pull / area, (1.5 * shear) / area + twisted)) // prettier-ignore
}
const rankine = (tension: number, shear: number): number =>
  tension / 2 + Math.sqrt((tension * tension) / 4 + shear * shear)

/** Row by row, what a shift and a turn of a piece move at the end of an arm: 3 × 6. */
function armRows(arms: Float64Array, at: number): number[] {
  const [x, y, z] = [arms[at]!, arms[at + 1]!, arms[at + 2]!]
  return [1, 0, 0, 0, z, -y, 0, 1, 0, -z, 0, x, 0, 0, 1, y, -x, 0]
}

/** Adds the stiffness of a bond between two ends of it to a block of 6 × 6. */
function put({ along, turning }: Lattice, out: Float64Array, place: number, k: number, p: number[], q: number[], sign: number): void {
  for (let i = 0; i < SIX; i++)
    for (let j = 0; j < SIX; j++) {
      const sum = p[i]! * q[j]! + p[6 + i]! * q[6 + j]! + p[12 + i]! * q[12 + j]!
      out[place * 36 + i * SIX + j]! += sign * along[k]! * sum
    }
  PLACES.forEach(([i, j], n) => {
    const value = sign * turning[k * 6 + n]!
    out[place * 36 + (3 + i) * SIX + 3 + j]! += value
    if (i !== j) out[place * 36 + (3 + j) * SIX + 3 + i]! += value
  })
} // prettier-ignore

/** Of each piece, what its bonds oppose to it alone. */
function diagonalOf(lattice: Lattice): Float64Array {
  const diagonal = new Float64Array(lattice.pieces * 36)
  lattice.bonds.forEach(({ a, b }, k) => {
    const [p, q] = [armRows(lattice.arms, k * 6), armRows(lattice.arms, k * 6 + 3)]
    put(lattice, diagonal, a, k, p, p, 1)
    if (b >= 0) put(lattice, diagonal, b, k, q, q, 1)
  })
  return diagonal
}

function systemOf(lattice: Lattice, diagonal: Float64Array): BlockSystem {
  const { bonds, arms } = lattice
  const inside = bonds.flatMap(({ b }, k) => (b < 0 ? [] : [k]))
  const between = new Float64Array(inside.length * 36)
  inside.forEach((k, n) => put(lattice, between, n, k, armRows(arms, k * 6), armRows(arms, k * 6 + 3), -1))
  const ends = inside.map((k): [number, number] => [bonds[k]!.a, bonds[k]!.b])
  return { nodes: lattice.pieces, diagonal, between, ends }
}

/** Makes a piece stay where it is: what balances is then borne by nobody. */
function ground(diagonal: Float64Array, piece: number): void {
  for (let i = 0; i < SIX; i++) diagonal[piece * 36 + i * 7]! *= 1e9
}
