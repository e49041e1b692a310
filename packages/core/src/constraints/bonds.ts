/** Bonds between pieces: made where pieces are born side by side, and broken by a cut, as their ends part, or by what bondBreaking.ts finds. */
import { layouts } from '@tangle/kernels'
import { quaternionOf, rotate, unitQuaternion } from '../math/quaternion.ts'
import { disjointSets, type DisjointSets } from '../math/disjointSets.ts'
import { random, STREAM } from '../math/random.ts'
import { add, length, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'
import { meshOfPiece, numberOfPiece, pieceNumber } from '../scene/pieces.ts'
import { eventOf } from '../state/events.ts'
import { bladeOf } from './blade.ts'
import { BOND, BONDS, bondTables, type BondRule, type BondTable } from './bondKind.ts'
import { brokenMesh, type BrokenMesh } from './brokenMeshes.ts'
import type { ConstraintMoment, Memory } from './constraint.ts'
import { isFree, type RigidMember } from './rigidMembers.ts'

const { link, bodyRow, F32, F64 } = layouts

/** Pieces are side by side where they are so near to their places in the mesh, as a share of the way between them. */
const IN_PLACE = 2e-3

/** The bonds of a member in a substep. */
export interface Bonds {
  member: RigidMember
  rule: BondRule
  table: BondTable
  /** Of the meshes that pieces are of, by number. */
  meshes: Map<number, BrokenMesh>
  /** Per bond: rows of both ends. */
  rowsA: Int32Array
  rowsB: Int32Array
  /** Per bond: tension that it bears, Pa; 0: it does not act now. */
  strength: Float64Array
  /** Per row: 1 where it is free. */
  free: Uint8Array
}

/** @param together whether two rows move as one body already, and so are in place */
export function actBonds(
  member: RigidMember,
  together: (a: number, b: number) => boolean,
  memory: Memory,
  moment: ConstraintMoment,
): Bonds | null {
  const { population, rows } = member
  const [feed, ...others] = population.feeds(BONDS)
  for (const one of others) one.free()
  if (!feed) {
    // none acts now, and none bears anything
    member.bondColumns?.stress.fill(0)
    member.bondColumns?.bonds.fill(0)
    return null
  }
  const tables = bondTables(memory)
  const table = withoutDead((tables[population.id] ??= noBonds()), rows)
  tables[population.id] = table
  const meshes = new Map<number, BrokenMesh>()
  for (const piece of member.pieces)
    if (piece > 0 && !meshes.has(meshOfPiece(piece))) meshes.set(meshOfPiece(piece), brokenMesh(moment, meshOfPiece(piece))) // prettier-ignore
  if (table.seen < population.nextId) makeBonds(member, table, meshes, feed, moment)
  const rowsA = Int32Array.from(table.a, (id) => rows.get(id)!)
  const rowsB = Int32Array.from(table.b, (id) => rows.get(id)!)
  const amount = moment.machine.heap.f32(feed.amount, population.columns.count)
  const { rule } = feed
  const strength = Float64Array.from(table.factor, (factor, k) =>
    table.state[k] === BOND.whole ? rule.bears * 1000 * factor * Math.min(amount[rowsA[k]!]!, amount[rowsB[k]!]!) : 0,
  ) // prettier-ignore
  const free = Uint8Array.from(member.ids, (_, i) => (isFree({ member, i }) ? 1 : 0))
  const bonds = { member, rule, table, meshes, rowsA, rowsB, strength, free }
  cut(bonds, moment)
  for (let k = 0; k < rowsA.length; k++) {
    const [a, b] = [rowsA[k]!, rowsB[k]!]
    // a free one that is bonded to one that is held goes with it
    const carried = strength[k]! > 0 && free[a] !== free[b]
    // between held ones a look at the end of a frame is enough
    const asked = free[a] || free[b] || endsFrame(moment)
    if (asked && !carried && !together(a, b)) followParting(bonds, k, moment)
  }
  feed.free()
  return bonds
}

/** Whether a substep is the last of its frame. */
export const endsFrame = ({ to }: ConstraintMoment): boolean => Number.isInteger(to)

const noBonds = (): BondTable => ({
  a: new Uint32Array(0),
  b: new Uint32Array(0),
  mesh: new Uint16Array(0),
  face: new Uint32Array(0),
  factor: new Float32Array(0),
  state: new Uint8Array(0),
  load: new Float32Array(0),
  seen: 0,
  made: 0,
  broken: 0,
  most: 0,
})

/** Bonds whose ends are both there. */
function withoutDead(table: BondTable, rows: Map<number, number>): BondTable {
  const { a, b } = table
  const lives = (k: number): boolean => rows.has(a[k]!) && rows.has(b[k]!)
  if (a.every((_, k) => lives(k))) return table
  const kept = Array.from(a.keys()).filter(lives)
  return {
    ...table,
    a: Uint32Array.from(kept, (k) => a[k]!),
    b: Uint32Array.from(kept, (k) => b[k]!),
    mesh: Uint16Array.from(kept, (k) => table.mesh[k]!),
    face: Uint32Array.from(kept, (k) => table.face[k]!),
    factor: Float32Array.from(kept, (k) => table.factor[k]!),
    state: Uint8Array.from(kept, (k) => table.state[k]!),
    load: Float32Array.from(kept, (k) => table.load[k]!),
  }
}

/** Bonds of those that are new with whoever lies beside them. */
function makeBonds(
  member: RigidMember,
  table: BondTable,
  meshes: Bonds['meshes'],
  { rule, seed }: { rule: BondRule; seed: number },
  moment: ConstraintMoment,
): void {
  const { ids, pieces, population } = member
  const byPiece = new Map<number, number[]>()
  pieces.forEach((piece, i) => piece > 0 && byPiece.set(piece, [...(byPiece.get(piece) ?? []), i]))
  const made: { a: number; b: number; mesh: number; face: number; centre: Vector }[] = []
  for (const [mesh, broken] of meshes) {
    const { pairs } = broken.faces
    for (let face = 0; face < pairs.length / 2; face++) {
      const [ofA, ofB] = [0, 1].map((side) => byPiece.get(pieceNumber(mesh, pairs[face * 2 + side]!)) ?? []) as [number[], number[]] // prettier-ignore
      const several = ofA.length > 1 || ofB.length > 1
      for (const a of ofA)
        for (const b of ofB) {
          const old = [a, b].filter((row) => ids[row]! < table.seen).length
          if (old === 2) continue
          const { parted, centre } = ends(member, broken, face, [a, b], 'startPosition')
          // those born together lie as they do in their mesh
          if (parted < IN_PLACE || (old === 0 && !several)) made.push({ a: ids[a]!, b: ids[b]!, mesh, face, centre }) // prettier-ignore
        }
    }
  }
  const weak = weakness(rule, made, moment)
  const longer = <T extends Uint32Array | Uint16Array | Float32Array | Uint8Array>(old: T, of: (one: (typeof made)[0], n: number) => number): T => {
    const out = new (old.constructor as new (n: number) => T)(old.length + made.length)
    out.set(old)
    made.forEach((one, n) => (out[old.length + n] = of(one, n)))
    return out
  } // prettier-ignore
  table.a = longer(table.a, ({ a }) => a)
  table.b = longer(table.b, ({ b }) => b)
  table.mesh = longer(table.mesh, ({ mesh }) => mesh)
  table.face = longer(table.face, ({ face }) => face)
  table.factor = longer(table.factor, ({ a, b }, n) => {
    const varied = 1 + rule.varies * (2 * random(seed ^ Math.imul(b + 1, 0x9e3779b1), a, STREAM.bond) - 1)
    return varied * (1 - weak[n]!)
  })
  table.state = longer(table.state, () => BOND.whole)
  table.load = longer(table.load, () => 0)
  table.made += made.length
  table.seen = population.nextId
}

/** What a mask takes from the strength of bonds, 0–1, as they are made. */
function weakness(
  { weak }: BondRule,
  made: { centre: Vector }[],
  { machine, masks, from }: ConstraintMoment,
): Float32Array {
  const count = made.length
  if (weak === undefined || count === 0) return new Float32Array(count)
  const { heap } = machine
  const [positions, out] = [heap.allocate(count * 12), heap.allocate(count * 4)]
  heap.f32(positions, count * 3).set(made.flatMap(({ centre }) => centre))
  masks.write(weak, { count, positions, frame: from }, out)
  const values = heap.f32(out, count).map((x) => Math.min(1, Math.max(0, x)))
  heap.free(positions)
  heap.free(out)
  return values
}

/**
 * Where the face of a bond is, and how far two pieces (its ends, or who moves as one with them) have parted there, as a share of the
 * way between the centres of its ends.
 */
function ends({ columns, pieces }: RigidMember, { masses, faces, face }: BrokenMesh, number: number, rows: [number, number], when: 'position' | 'startPosition') {
  const { centre, area } = face(number)
  const at = (row: number) => {
    const home = masses[numberOfPiece(pieces[row]!)]!.centre
    const turned = unitQuaternion(quaternionOf(columns.orientation, row))
    return { home, turned, place: add(vectorOf(columns[when], row), rotate(turned, subtract(centre, home))) }
  }
  const [one, other] = [at(rows[0]), at(rows[1])]
  const inner = one.turned.reduce((sum, x, k) => sum + x * other.turned[k]!, 0)
  // sine of half the angle between them
  const turn = Math.sqrt(Math.max(0, 1 - inner * inner))
  const gap = length(subtract(one.place, other.place)) + turn * Math.sqrt(area)
  const [from, to] = [0, 1].map((side) => masses[faces.pairs[number * 2 + side]!]!.centre) as [Vector, Vector]
  return { centre: one.place, parted: gap / Math.max(1e-12, length(subtract(from, to))) }
} // prettier-ignore

/** Both ends of a bond go their own ways: it breaks when they part, and may hold again when they are back. */
function followParting(bonds: Bonds, k: number, moment: ConstraintMoment): void {
  const { member, rule, table, meshes, rowsA, rowsB, free } = bonds
  const rows: [number, number] = [rowsA[k]!, rowsB[k]!]
  // who is held is where it is put by now; who is free has not been moved yet
  const when = free[rows[0]] || free[rows[1]] ? 'startPosition' : 'position'
  const { parted } = ends(member, meshes.get(table.mesh[k]!)!, table.face[k]!, rows, when)
  const state = table.state[k]
  if (state === BOND.whole && parted > Math.max(IN_PLACE, rule.stretch)) breakBond(bonds, k, 0, moment)
  if (state === BOND.broken && parted > Math.max(2 * IN_PLACE, 2 * rule.stretch)) table.state[k] = BOND.parted
  if (state === BOND.parted && rule.mends === 'inPlace' && parted < IN_PLACE) {
    table.state[k] = BOND.whole
    table.broken--
  }
}

/** @param detail 1 where it was cut */
export function breakBond(bonds: Bonds, k: number, detail: 0 | 1, { to }: ConstraintMoment): void {
  const { member, table, meshes, rowsA, rowsB, strength } = bonds
  table.state[k] = BOND.broken
  table.load[k] = 0
  table.broken++
  strength[k] = 0
  const { centre } = ends(
    member,
    meshes.get(table.mesh[k]!)!,
    table.face[k]!,
    [rowsA[k]!, rowsB[k]!],
    'position',
  )
  const [a, b] = [rowsA, rowsB].map((rows) => vectorOf(member.columns.position, rows[k]!)) as [Vector, Vector]
  member.population.events.add(
    eventOf('break', to, table.a[k]!, {
      other: table.b[k]!,
      of: member.population.id,
      place: centre,
      normal: unit(subtract(a, b)),
      detail,
    }),
  )
}

/** Bonds are cut where the surface of a mesh passes between the centres of their ends. */
function cut(bonds: Bonds, moment: ConstraintMoment): void {
  const { rule, table, member, rowsA, rowsB } = bonds
  const { machine, bodies } = moment
  const blade = rule.cut === undefined ? undefined : bodies.get(rule.cut)
  const whole = [...table.state.keys()].filter((k) => table.state[k] === BOND.whole)
  if (!blade || whole.length === 0) return
  const { heap } = machine
  const { count } = member.population.columns
  const owned: number[] = []
  const block = (bytes: number): number => {
    owned.push(heap.allocate(bytes))
    return owned.at(-1)!
  }
  const [starts, moved] = [block(count * bodyRow.SIZE * F32), block(count * bodyRow.SIZE * F32)]
  const [places, ways] = [starts, moved].map((at) => heap.f32(at, count * bodyRow.SIZE)) as [Float32Array, Float32Array] // prettier-ignore
  const { position, startPosition } = member.columns
  for (let i = 0; i < count; i++)
    for (let axis = 0; axis < 3; axis++) {
      places[i * bodyRow.SIZE + axis] = startPosition[i * 3 + axis]!
      ways[i * bodyRow.SIZE + axis] = position[i * 3 + axis]! - startPosition[i * 3 + axis]!
    }
  const links = block(whole.length * link.SIZE * F64)
  const records = heap.f64(links, whole.length * link.SIZE)
  whole.forEach((k, n) => {
    records[n * link.SIZE + link.bodyA] = rowsA[k]!
    records[n * link.SIZE + link.bodyB] = rowsB[k]!
    records[n * link.SIZE + link.holds] = 1
  })
  const { cutter, free } = bladeOf(heap, blade, moment)
  machine.run('cutLinks', whole.length, { links, starts, moved, ...cutter, flag: block(4) })
  free()
  const left = heap.f64(links, whole.length * link.SIZE)
  whole.forEach((k, n) => {
    if (left[n * link.SIZE + link.holds] !== 1) breakBond(bonds, k, 1, moment)
  })
  for (const pointer of owned) heap.free(pointer)
}
/** Pieces of a member that move as one, and the piece that carries them: a held one, or −1. */
export interface Group {
  rows: number[]
  carrier: number
}

/** Every row in one group: held ones each alone, free ones with all to whom whole bonds lead. */
export function groupsOf(member: RigidMember, bonds: Bonds | null, moment: ConstraintMoment): Group[] {
  const count = member.ids.length
  const sets = disjointSets(count)
  const carriers = bonds ? joinBonded(bonds, sets, moment) : new Map<number, number>()
  const groups = new Map<number, Group>()
  for (let i = 0; i < count; i++) {
    const root = sets.rootOf(i)
    const known = groups.get(root)
    if (known) known.rows.push(i)
    else groups.set(root, { rows: [i], carrier: carriers.get(root) ?? -1 })
  }
  return [...groups.values()]
}

/** Joins free ones that bonds hold together. Gives who carries each group, by its root: the held one with the largest face. */
function joinBonded(bonds: Bonds, sets: DisjointSets, moment: ConstraintMoment): Map<number, number> {
  const { member, rule, table, meshes, rowsA, rowsB, strength, free } = bonds
  const acting = [...strength.keys()].filter((k) => strength[k]! > 0)
  for (const k of acting) {
    const [a, b] = [rowsA[k]!, rowsB[k]!]
    if (free[a] && free[b]) sets.join(a, b)
  }
  const holding = acting.filter((k) => free[rowsA[k]!] !== free[rowsB[k]!])
  const held = (k: number): [root: number, row: number] =>
    free[rowsA[k]!] ? [sets.rootOf(rowsA[k]!), rowsB[k]!] : [sets.rootOf(rowsB[k]!), rowsA[k]!]
  const widest = new Map<number, { row: number; area: number }>()
  for (const k of holding) {
    const [root, row] = held(k)
    const area = meshes.get(table.mesh[k]!)!.faces.areas[table.face[k]!]!
    if (area > (widest.get(root)?.area ?? 0)) widest.set(root, { row, area })
  }
  // the others may go elsewhere
  for (const k of holding) {
    const [root, row] = held(k)
    const carrier = widest.get(root)!.row
    const { parted } = ends(member, meshes.get(table.mesh[k]!)!, table.face[k]!, [carrier, row], 'position')
    if (parted > Math.max(IN_PLACE, rule.stretch)) breakBond(bonds, k, 0, moment)
  }
  return new Map([...widest].map(([root, { row }]) => [root, row]))
}
