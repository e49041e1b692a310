/**
 * Direct solution of a sparse symmetric positive definite system in blocks of 6 × 6: blocks are eliminated one after the other, the one with
 * the fewest neighbours next (George, Liu, "The evolution of the minimum degree ordering algorithm", 1989).
 */

/** A system: the blocks on the diagonal, 36 numbers a node, and those between nodes a and b, row by row of a. */
export interface BlockSystem {
  nodes: number
  diagonal: Float64Array
  ends: [a: number, b: number][]
  between: Float64Array
}

const SIX = 6
const BLOCK = 36

/** Blocks of 36 numbers side by side, which grow in number. */
interface Store {
  values: Float64Array
  count: number
}

/** An eliminated node: the neighbours that it had then, and where in the store D⁻¹ is, and D⁻¹·A to each of them. */
interface Step {
  node: number
  inverse: number
  to: number[]
  blocks: number[]
}

/**
 * Solves it in place: `values` come as the right side, 6 a node, and leave as the solution.
 * @param mostWork multiplications that it may take @returns false where it would take more: nothing is changed then
 */
export function solveBlocks(system: BlockSystem, values: Float64Array, mostWork: number): boolean {
  const order = eliminationOrder(system, mostWork)
  if (!order) return false
  const store: Store = { values: new Float64Array(BLOCK * 8 * (system.nodes + system.ends.length)), count: 0 }
  const steps = eliminate(system, order, store)
  const m = store.values
  for (const { node, to, blocks } of steps)
    to.forEach((other, k) => {
      for (let i = 0; i < SIX; i++)
        for (let j = 0; j < SIX; j++)
          values[other * SIX + j]! -= m[blocks[k]! + i * SIX + j]! * values[node * SIX + i]!
    })
  for (const { node, inverse, to, blocks } of steps.reverse()) {
    const own = new Float64Array(SIX)
    addTimes(own, m, inverse, values, node, 1)
    to.forEach((other, k) => addTimes(own, m, blocks[k]!, values, other, -1))
    values.set(own, node * SIX)
  }
  return true
}

/** out += sign · m·v of one node. */
function addTimes(
  out: Float64Array,
  m: Float64Array,
  at: number,
  v: Float64Array,
  node: number,
  sign: number,
): void {
  for (let i = 0; i < SIX; i++)
    for (let j = 0; j < SIX; j++) out[i]! += sign * m[at + i * SIX + j]! * v[node * SIX + j]!
}

/** Nodes in the order of elimination; null where the work is more than wanted. */
function eliminationOrder({ nodes, ends }: BlockSystem, mostWork: number): number[] | null {
  const around = Array.from({ length: nodes }, () => new Set<number>())
  for (const [a, b] of ends) {
    around[a]!.add(b)
    around[b]!.add(a)
  }
  const left = new Set(around.keys())
  const order: number[] = []
  let work = 0
  while (left.size > 0) {
    let next = -1
    for (const node of left) if (next < 0 || around[node]!.size < around[next]!.size) next = node
    const neighbours = [...around[next]!]
    work += (neighbours.length * (neighbours.length + 3) * BLOCK * SIX) / 2
    if (work > mostWork) return null
    for (const a of neighbours) {
      around[a]!.delete(next)
      for (const b of neighbours) if (a !== b) around[a]!.add(b)
    }
    left.delete(next)
    order.push(next)
  }
  return order
}

function eliminate({ nodes, diagonal, ends, between }: BlockSystem, order: number[], store: Store): Step[] {
  const own = Array.from({ length: nodes }, (_, k) => add(store, diagonal, k * BLOCK))
  // blocks to nodes that come later, by the number of those
  const place = new Int32Array(nodes)
  order.forEach((node, k) => (place[node] = k))
  const rows = Array.from({ length: nodes }, () => new Map<number, number>())
  const blockOf = (row: number, to: number): number => {
    const known = rows[row]!.get(to)
    if (known !== undefined) return known
    const made = add(store)
    rows[row]!.set(to, made)
    return made
  }
  ends.forEach(([a, b], k) => {
    const turned = place[a]! > place[b]!
    const sum = turned ? blockOf(b, a) : blockOf(a, b)
    for (let i = 0; i < SIX; i++)
      for (let j = 0; j < SIX; j++)
        store.values[sum + i * SIX + j]! += between[k * BLOCK + (turned ? j * SIX + i : i * SIX + j)]!
  })
  return order.map((node) => {
    const inverse = add(store, invert(store.values.subarray(own[node], own[node]! + BLOCK)), 0)
    const to = [...rows[node]!.keys()].sort((a, b) => place[a]! - place[b]!)
    const from = to.map((other) => rows[node]!.get(other)!)
    const blocks = from.map((block) => multiplied(store, inverse, block))
    to.forEach((a, i) => {
      subtractProduct(store.values, own[a]!, from[i]!, blocks[i]!)
      for (let j = i + 1; j < to.length; j++) {
        const block = blockOf(a, to[j]!)
        subtractProduct(store.values, block, from[i]!, blocks[j]!)
      }
    })
    return { node, inverse, to, blocks }
  })
}

/** Puts a copy of a block, or one of zeros, into a store. @returns where it is */
function add(store: Store, from?: Float64Array, start = 0): number {
  const at = store.count++ * BLOCK
  if (at + BLOCK > store.values.length) {
    const wider = new Float64Array(store.values.length * 2)
    wider.set(store.values)
    store.values = wider
  }
  for (let i = 0; from && i < BLOCK; i++) store.values[at + i] = from[start + i]!
  return at
}

/** The product of two blocks of a store as a new one. */
function multiplied(store: Store, a: number, b: number): number {
  const out = add(store)
  const m = store.values
  for (let i = 0; i < SIX; i++)
    for (let k = 0; k < SIX; k++) {
      const x = m[a + i * SIX + k]!
      for (let j = 0; j < SIX; j++) m[out + i * SIX + j]! += x * m[b + k * SIX + j]!
    }
  return out
}

/** out −= aᵀ·b */
function subtractProduct(m: Float64Array, out: number, a: number, b: number): void {
  for (let i = 0; i < SIX; i++) {
    const [a0, a1, a2] = [m[a + i]!, m[a + i + 6]!, m[a + i + 12]!]
    const [a3, a4, a5] = [m[a + i + 18]!, m[a + i + 24]!, m[a + i + 30]!]
    for (let j = 0; j < SIX; j++) {
      const k = b + j
      const upper = a0 * m[k]! + a1 * m[k + 6]! + a2 * m[k + 12]!
      const lower = a3 * m[k + 18]! + a4 * m[k + 24]! + a5 * m[k + 30]!
      m[out + i * SIX + j]! -= upper + lower
    }
  }
}

/** The inverse of a symmetric positive definite block (Gauss, Jordan), as a new one; of a block that is nothing it is nothing. */
export function invert(block: Float64Array): Float64Array {
  const m = block.slice()
  const largest = Math.max(...[0, 1, 2, 3, 4, 5].map((i) => m[i * 7]!))
  for (let p = 0; p < SIX; p++) {
    const pivot = m[p * SIX + p]!
    if (!(pivot > 1e-300) || !(largest > 0)) return new Float64Array(BLOCK)
    m[p * SIX + p] = 1
    for (let j = 0; j < SIX; j++) m[p * SIX + j] = m[p * SIX + j]! / pivot
    for (let i = 0; i < SIX; i++) {
      if (i === p) continue
      const factor = m[i * SIX + p]!
      m[i * SIX + p] = 0
      for (let j = 0; j < SIX; j++) m[i * SIX + j] = m[i * SIX + j]! - factor * m[p * SIX + j]!
    }
  }
  return m
}
