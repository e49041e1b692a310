import { solveBlocks, type BlockSystem } from '../src/constraints/blockCholesky.ts'
import { balance, latticeOf, tensions, type LatticeBond } from '../src/constraints/bondLattice.ts'
import type { Vector } from '../src/index.ts'

/** Even numbers from −1 to 1, the same every time (Park, Miller, "Random number generators: good ones are hard to find", 1988). */
function numbers(seed: number): () => number {
  let state = seed
  return () => ((state = (state * 16807) % 2147483647) / 2147483647) * 2 - 1
}

test.each([[1, 0], [2, 1], [40, 60], [120, 500]])('%d blocks with %d between them: what comes out times the system is the right side', (nodes, count) => {
  const random = numbers(nodes * 31 + count + 1)
  const ends = Array.from({ length: count }, (): [number, number] => {
    const a = Math.floor(((random() + 1) / 2) * (nodes - 1))
    return [a, a + 1 + Math.floor(((random() + 1) / 2) * (nodes - 1 - a))]
  })
  const between = Float64Array.from({ length: count * 36 }, random)
  const diagonal = new Float64Array(nodes * 36)
  // heavier on the diagonal than all beside it: positive definite (Gershgorin)
  for (let n = 0; n < nodes; n++)
    for (let i = 0; i < 6; i++) diagonal[n * 36 + i * 7] = 20 + 6 * ends.filter((pair) => pair.includes(n)).length
  const system: BlockSystem = { nodes, diagonal, ends, between }
  const right = Float64Array.from({ length: nodes * 6 }, random)
  const found = right.slice()
  expect(solveBlocks(system, found, 1e12)).toBe(true)
  const back = new Float64Array(nodes * 6)
  const add = (m: Float64Array, at: number, from: number, to: number, turned: boolean): void => {
    for (let i = 0; i < 6; i++)
      for (let j = 0; j < 6; j++) back[to * 6 + i]! += m[at + (turned ? j * 6 + i : i * 6 + j)]! * found[from * 6 + j]!
  }
  for (let n = 0; n < nodes; n++) add(diagonal, n * 36, n, n, false)
  ends.forEach(([a, b], k) => {
    add(between, k * 36, b, a, false)
    add(between, k * 36, a, b, true)
  })
  back.forEach((value, i) => expect(value).toBeCloseTo(right[i]!, 9))
  // too much work: it says so, and leaves the right side as it was
  if (count > 1) {
    const untouched = right.slice()
    expect(solveBlocks(system, untouched, 100)).toBe(false)
    expect(untouched).toEqual(right)
  }
}) // prettier-ignore

/** A block of cells 1 m wide, bonded where they meet; the lowest layer hangs on what holds. */
function cells(n: number, held: boolean) {
  const place = (x: number, y: number, z: number): number => (x * n + y) * n + z
  const centres: Vector[] = []
  const bonds: LatticeBond[] = []
  const axes: Vector[] = [[1, 0, 0], [0, 1, 0], [0, 0, 1]] // prettier-ignore
  for (let x = 0; x < n; x++)
    for (let y = 0; y < n; y++)
      for (let z = 0; z < n; z++) {
        centres.push([x, y, z])
        axes.forEach((normal, k) => {
          const to: Vector = [x + normal[0], y + normal[1], z + normal[2]]
          const face = { centre: [x, y, z].map((c, i) => c + normal[i]! / 2) as Vector, normal, axis: axes[(k + 1) % 3]!, area: 1, moments: [1 / 12, 1 / 12, 0.5, 0.5] as [number, number, number, number] } // prettier-ignore
          if (to.every((c) => c < n)) bonds.push({ a: place(x, y, z), b: place(...to), face })
          if (held && k === 1 && y === 0) bonds.push({ a: place(x, y, z), b: -1, held: [x, -1, z], face: { ...face, centre: [x, -0.5, z], normal: [0, -1, 0] } }) // prettier-ignore
        })
      }
  return { lattice: latticeOf(centres, bonds), bonds }
}

test.each([3, 12])(
  'a pillar of %d³ cells under even pull has the same tension in every section (σ = F/A)',
  (n) => {
    // the small one is solved by elimination, the large one by conjugate gradients
    const { lattice, bonds } = cells(n, true)
    const loads = new Float64Array(n ** 3 * 6)
    for (let x = 0; x < n; x++) for (let z = 0; z < n; z++) loads[((x * n + n - 1) * n + z) * 6 + 1] = 7
    const moved = new Float64Array(loads.length)
    expect(balance(lattice, loads, loads, moved)).toBe(true)
    tensions(lattice, moved).forEach((tension, k) => {
      const upright = Math.abs(bonds[k]!.face.normal[1]) === 1
      expect(Math.abs(tension - (upright ? 7 : 0))).toBeLessThan(0.02)
    })
  },
)

test('what nobody holds bears the same whichever piece it is reckoned from', () => {
  const { lattice } = cells(3, false)
  const loads = new Float64Array(27 * 6)
  loads[1] = 5
  loads[26 * 6 + 1] = -5
  loads[26 * 6 + 5] = 5 * 2
  // a couple is left: the other way about, at the first
  loads[5] = 0
  const torque = [0, 0, 0]
  ;[[0, 0, 0], [2, 2, 2]].forEach(([x, , z], k) => {
    const f = k === 0 ? 5 : -5
    torque[0]! += -z! * f
    torque[2]! += x! * f
  }) // prettier-ignore
  loads[26 * 6 + 3] = -torque[0]!
  loads[26 * 6 + 5] = -torque[2]!
  const moved = new Float64Array(loads.length)
  expect(balance(lattice, loads, loads, moved)).toBe(true)
  const found = tensions(lattice, moved)
  expect(Math.max(...found)).toBeGreaterThan(1)
  const shifted = moved.map((x, i) => x + (i % 6 === 1 ? 3 : 0))
  tensions(lattice, shifted).forEach((tension, k) => expect(tension).toBeCloseTo(found[k]!, 9))
})
