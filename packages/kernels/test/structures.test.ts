/** Kernels that need records that make sense: trees and links. Compiled against their TypeScript form, bit for bit. */
import { createHeap, createMemory, instantiate, layouts } from '../src/index.ts'
import { bind } from '../src/machine.reference.ts'
import { inOrder, type Arguments, type KernelName, type Kernels } from '../src/machine.ts'
import { RANGE_KERNELS } from '../build/signatures.ts'

const reference = (await import('../assembly/index' as string)) as Kernels
const { link, linkPath, pathBatch, pathStep, treeDipole, treeQuad, treeStack, treeSums, treeTriangle, body } =
  layouts

/** A compiled and a reference memory of the same numbers. `run` calls a kernel on both, and compares all of them. */
function both(bytes: number, lay: (heap: ReturnType<typeof createHeap>) => void) {
  const memory = createMemory()
  const heap = createHeap(memory)
  lay(heap)
  const copy = new SharedArrayBuffer(memory.buffer.byteLength)
  new Uint8Array(copy).set(new Uint8Array(memory.buffer))
  bind(copy)
  const compiled = instantiate(memory)
  const [ours, theirs] = [new Uint8Array(memory.buffer, 0, bytes), new Uint8Array(copy, 0, bytes)]
  return {
    heap,
    run<K extends KernelName>(kernel: K, count: number, values: Arguments<K>): number {
      const range = kernel in RANGE_KERNELS ? [0, count] : []
      const [one, other] = [compiled, reference].map((form) =>
        form[kernel](...range, ...inOrder(kernel, values), 0),
      )
      expect([kernel, Buffer.compare(ours, theirs)]).toEqual([kernel, 0])
      if (range.length === 0) expect(one ?? 0).toBe(other ?? 0)
      return one ?? 0
    },
  }
}
/** Numbers that look drawn, from −1 to 1. */
const strewn = (n: number): number => 2 * ((n * 0.618034 + (n * n * 0.37) / 997) % 1) - 1

test('trees: fitted, asked for the closest triangle and the winding number', () => {
  const triangles = 37
  let at: Record<string, number> = {}
  const quads = 1 + 4 + 16
  const { heap, run } = both(2 ** 20, (heap) => {
    at = {
      positions: heap.allocate(triangles * 3 * 12),
      corners: heap.allocate(triangles * 12),
      vertices: heap.allocate(triangles * treeTriangle.SIZE * 4),
      quads: heap.allocate(quads * treeQuad.SIZE * 4),
      sums: heap.allocate(quads * 4 * treeSums.SIZE * 8),
      dipoles: heap.allocate(quads * treeDipole.SIZE * 4),
      stack: heap.allocate(treeStack.SIZE * 4),
      queries: heap.allocate(50 * 12),
      point: heap.allocate(50 * 12),
      distance: heap.allocate(50 * 4),
      triangle: heap.allocate(50 * 4),
    }
    heap.f32(at.positions!, triangles * 9).forEach((_, k, all) => (all[k] = strewn(k)))
    heap.u32(at.corners!, triangles * 3).forEach((_, k, all) => (all[k] = k))
    heap.f32(at.queries!, 150).forEach((_, k, all) => (all[k] = 1.5 * strewn(k + 1000)))
    // a root over four quads, of which the leaves hold up to three triangles
    const codes = heap.u32(at.quads!, quads * treeQuad.SIZE)
    const leaf = (from: number, to: number): number => -1 - (8 * from + (to - from))
    for (let quad = 0; quad < 5; quad++) {
      for (let lane = 0; lane < 4; lane++) {
        const n = (quad - 1) * 4 + lane
        const [from, to] = [Math.min(triangles, n * 3), Math.min(triangles, n * 3 + 3)]
        codes[quad * treeQuad.SIZE + treeQuad.child + lane] = quad === 0 ? lane + 1 : leaf(from, to)
      }
    }
  })
  const { positions, corners, vertices, sums, dipoles, stack, queries } = at as Record<string, number> as { [name: string]: number } & typeof at // prettier-ignore
  run('fitTriangles', triangles, { corners: corners!, positions: positions!, vertices: vertices! })
  run('fitLeaves', 5, { quads: at.quads!, vertices: vertices!, sums: sums! })
  run('fitQuads', 0, { count: 5, quads: at.quads!, sums: sums!, dipoles: dipoles! })
  const asked = { queries: queries!, quads: at.quads!, vertices: vertices!, stack: stack! }
  const found = { outPoint: at.point!, outDistance: at.distance!, outTriangle: at.triangle! }
  run('closestPoints', 50, { ...asked, ...found, limit: 1e150 })
  const distances = Array.from(heap.f32(at.distance!, 50))
  // the same by looking at every triangle: one alone at a time
  const alone = heap.f32(at.point!, 150).slice()
  distances.forEach((distance, i) => {
    const q = heap.f32(queries!, 150).subarray(i * 3, i * 3 + 3)
    expect(Math.hypot(...q.map((x, axis) => x - alone[i * 3 + axis]!))).toBeCloseTo(distance, 4)
  })
  run('closestPoints', 50, { ...asked, ...found, limit: 0.2 })
  heap.f32(at.distance!, 50).forEach((near, i) => expect(near < 1e29).toBe(distances[i]! < 0.2))
  run('windingNumbers', 50, { ...asked, dipoles: dipoles!, out: at.distance! })
})

test('links: laid in paths, solved, strained and broken', () => {
  const particles = 30
  let at: Record<string, number> = {}
  // two chains and some ties between them
  const ends: [number, number, number][] = [
    ...Array.from({ length: 14 }, (_, k): [number, number, number] => [k, k + 1, k === 0 ? 0 : 1]),
    ...Array.from({ length: 14 }, (_, k): [number, number, number] => [15 + k, 16 + k, k === 0 ? 0 : 1]),
    ...[0, 3, 7, 11, 14].map((k): [number, number, number] => [k, 15 + k, 0]),
  ]
  const count = ends.length
  const { heap, run } = both(2 ** 20, (heap) => {
    at = {
      ids: heap.allocate(particles * 4),
      links: heap.allocate(count * link.SIZE * 8),
      broken: heap.allocate(count * link.SIZE * 8),
      bodies: heap.allocate(particles * body.SIZE * 8),
      amounts: heap.allocate(particles * 4),
      masks: heap.allocate(particles * 8),
      paths: heap.allocate(count * linkPath.SIZE * 4),
      order: heap.allocate(count * 4),
      sorted: heap.allocate(count * 4),
      counts: heap.allocate(2048),
      batches: heap.allocate(count * pathBatch.SIZE * 4),
      slots: heap.allocate(count * 16),
      starts: heap.allocate((linkPath.COLOURS + 2) * 4),
      steps: heap.allocate(count * pathStep.SIZE * 4),
      rows: heap.allocate((particles + 1) * 16),
      pushes: heap.allocate(particles * 16),
      kicks: heap.allocate((particles + 1) * 16),
      halfKick: heap.allocate(particles * 12),
      most: heap.allocate(8),
    }
    heap.u32(at.ids!, particles).forEach((_, k, all) => (all[k] = 3 * k + 5))
    heap.f32(at.amounts!, particles).fill(1)
    heap.f32(at.amounts!, particles)[20] = 0
    ends.forEach(([a, b, joined], n) => {
      const record = heap.f64(at.links! + n * link.SIZE * 8, link.SIZE)
      record.set([3 * a + 5, 3 * b + 5, -1, -1, 0.1, 0.1, 1, 0, 0, 1, joined])
    })
    for (let i = 0; i < particles; i++) {
      const x = [(i % 15) * 0.11 + 0.01 * strewn(i), i < 15 ? 0 : 0.1, 0.02 * strewn(i + 50)]
      const start = x.map((v, axis) => v - 0.01 * strewn(3 * i + axis))
      const record = heap.f64(at.bodies! + i * body.SIZE * 8, body.SIZE)
      record.set([...x, ...start, i === 0 ? 0 : 1 + 0.1 * (i % 3), 0.05])
    }
  })
  const all = at as { [name: string]: number }
  const pointer = (name: string): number => all[name]!
  const [links, bodies, rows, steps, batches] = ['links', 'bodies', 'rows', 'steps', 'batches'].map(pointer) as [number, number, number, number, number] // prettier-ignore
  expect(run('placeLinks', 0, { links, count, ids: pointer('ids'), particles, first: 0 })).toBe(count)
  const paths = pointer('paths')
  const found = run('findPaths', 0, { links, count, particles, first: 0, masks: pointer('masks'), paths })
  // each chain one, and the ties one each
  expect(found).toBe(2 + 5)
  const scratch = { order: pointer('order'), sorted: pointer('sorted'), counts: pointer('counts') }
  const starts = pointer('starts')
  const made = run('batchPaths', 0, {
    paths,
    count: found,
    ...scratch,
    batches,
    slots: pointer('slots'),
    starts,
  })
  const firsts = Array.from(heap.u32(starts, linkPath.COLOURS + 2))
  expect(firsts.at(-2)).toBe(made)
  const stepCount = firsts.at(-1)!
  const rule = { compliance: 1e-9, soft: 1e-6, h: 0.01 }
  const amounts = { amounts: pointer('amounts'), first: 0, nobody: particles }
  run('startSteps', stepCount, { links, slots: pointer('slots'), steps, bodies, ...amounts, ...rule })
  const violated = (): number =>
    ends.reduce((sum, [a, b]) => {
      if (a === 20 || b === 20) return sum
      const [p, q] = [a, b].map((i) => heap.f64(bodies + i * body.SIZE * 8, 3))
      return sum + Math.abs(Math.hypot(...p!.map((x, axis) => x - q![axis]!)) - 0.1)
    }, 0)
  const kicks = pointer('kicks')
  const before = violated()
  // the chain that is held follows from its held end; the next rounds begin anew
  run('placeRows', particles, { bodies, rows })
  const placed = heap.f32(rows, particles * 4).slice()
  for (let c = 0; c < linkPath.COLOURS; c++)
    if (firsts[c + 1]! > firsts[c]!) run('followPaths', firsts[c + 1]! - firsts[c]!, { from: firsts[c]!, batches, steps, rows }) // prettier-ignore
  expect(heap.f32(rows, particles * 4)).not.toEqual(placed)
  for (let round = 0; round < 4; round++) {
    run('placeRows', particles, { bodies, rows })
    for (let c = 0; c < linkPath.COLOURS; c++) {
      const [from, to] = [firsts[c]!, firsts[c + 1]!]
      if (to > from) run('solvePaths', to - from, { from, batches, steps, rows, gamma: 0.01 })
      if (to > from && round === 3) run('turnImpulses', to - from, { from, batches, steps, rows, kicks })
    }
    run('moveBodies', particles, { bodies, rows, pushes: pointer('pushes') })
  }
  // all but what is slack at particle 20
  expect(violated()).toBeLessThan(0.5 * before)
  run('finishSteps', stepCount, { links, steps })
  run('halfKickOfLinks', particles, { pushes: pointer('pushes'), first: 0, h: 0.01, halfKick: pointer('halfKick') }) // prettier-ignore
  run('addKicks', particles, { kicks, first: 0, h: 0.01, velocity: pointer('halfKick') })
  run('strainLinks', count, { links, bodies, breaks: 0.02, yields: 0.001, creep: 0.3 })
  run('energyOfLinks', 0, { links, count, bodies, ...rule })
  const left = run('removeBroken', 0, { links, count, broken: pointer('broken'), most: pointer('most') })
  expect(left).toBeGreaterThan(0)
  expect(left).toBeLessThan(count)
})
