/** Kernels that need records that make sense: trees and links. Compiled against their TypeScript form, bit for bit. */
import { createHeap, createMemory, instantiate, layouts } from '../src/index.ts'
import { bind } from '../src/machine.reference.ts'
import { inOrder, type Arguments, type KernelName, type Kernels } from '../src/machine.ts'
import { RANGE_KERNELS } from '../build/signatures.ts'

const reference = (await import('../assembly/index' as string)) as Kernels
const { link, linkPath, pathBatch, pathStep, treeDipole, treeQuad, treeStack, treeSums, treeTriangle } =
  layouts

/** A compiled and a reference memory of the same numbers. `run` calls a kernel on both, and compares all of them. */
function both(bytes: number, lay: (heap: ReturnType<typeof createHeap>) => void) {
  const memory = createMemory()
  // lays its constants
  const compiled = instantiate(memory)
  const heap = createHeap(memory)
  lay(heap)
  const copy = new SharedArrayBuffer(memory.buffer.byteLength)
  new Uint8Array(copy).set(new Uint8Array(memory.buffer))
  bind(copy)
  const [ours, theirs] = [new Uint8Array(memory.buffer, 0, bytes), new Uint8Array(copy, 0, bytes)]
  return {
    heap,
    run<K extends KernelName>(kernel: K, count: number, values: Arguments<K>, from = 0): number {
      const range = kernel in RANGE_KERNELS ? [from, count] : []
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

test('trees: fitted, asked for the closest triangle, the winding number and what rays meet', () => {
  const triangles = 37
  let at: Record<string, number> = {}
  const quads = 1 + 4 + 16
  const { heap, run } = both(2 ** 20, (heap) => {
    at = {
      positions: heap.allocate(triangles * 3 * 12),
      corners: heap.allocate(triangles * 12),
      vertices: heap.allocate(triangles * treeTriangle.SIZE * 4),
      quads: heap.allocate(quads * treeQuad.SIZE * 4),
      sums: heap.allocate(quads * treeSums.SIZE * 4),
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
  // rays from each query to where the next one is
  const rays = { origins: queries!, ways: queries! + 12, outShare: at.distance!, outTriangle: at.triangle! }
  run('castRays', 49, { ...rays, quads: at.quads!, vertices: vertices!, stack: stack! })
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
      bodyStarts: heap.allocate((particles + 1) * 16),
      moved: heap.allocate((particles + 1) * 16),
      before: heap.allocate((particles + 1) * 16),
      flag: heap.allocate(4),
      ends: heap.allocate(count * 8),
      first: heap.allocate((particles + 1) * 4),
      partners: heap.allocate(count * 8),
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
      pushes: heap.allocate(particles * 16),
      kicks: heap.allocate((particles + 1) * 16),
      halfKick: heap.allocate(particles * 12),
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
      heap.f32(at.bodyStarts! + i * 16, 4).set([...start, 0.05])
      const gone = x.map((v, axis) => v - start[axis]!)
      heap.f32(at.moved! + i * 16, 4).set([...gone, i === 0 ? 0 : 1 + 0.1 * (i % 3)])
    }
  })
  const all = at as { [name: string]: number }
  const pointer = (name: string): number => all[name]!
  const [links, moved, steps, batches] = ['links', 'moved', 'steps', 'batches'].map(pointer) as [number, number, number, number] // prettier-ignore
  const bodies = { starts: pointer('bodyStarts'), moved }
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
  run('laySteps', stepCount, { links, slots: pointer('slots'), nobody: particles, steps })
  run('startSteps', stepCount, { steps, ...bodies, amounts: pointer('amounts'), first: 0, ...rule })
  const lengths = (): number[] =>
    ends.map(([a, b]) => {
      const [p, q] = [a, b].map((i) => {
        const [from, by] = [bodies.starts, moved].map((table) => heap.f32(table + i * 16, 3))
        return Array.from(from!, (x, axis) => x + by![axis]!)
      })
      return Math.hypot(...p!.map((x, axis) => x - q![axis]!))
    })
  /** How much is left of all but what is slack at particle 20. */
  const violated = (): number =>
    lengths().reduce((sum, d, n) => sum + (ends[n]!.slice(0, 2).includes(20) ? 0 : Math.abs(d - 0.1)), 0)
  const kicks = pointer('kicks')
  const before = violated()
  const stretches = Array.from({ length: linkPath.COLOURS }, (_, c) => [firsts[c]!, firsts[c + 1]!] as const)
  const overAll = (kernel: KernelName, values: object): void => {
    for (const [from, to] of stretches) if (to > from) run(kernel, to, { ...values } as never, from)
  }
  // the chain that is held follows from its held end; the next rounds begin anew
  const placed = heap.f32(moved, particles * 4).slice()
  overAll('followPaths', { batches, steps, rows: moved, gamma: 0 })
  expect(heap.f32(moved, particles * 4)).not.toEqual(placed)
  for (let round = 0; round < 4; round++) {
    run('copyRows', particles, { from: moved, to: pointer('before') })
    overAll('solvePaths', { batches, steps, rows: moved, gamma: 0.01 })
    if (round === 3) overAll('turnImpulses', { batches, steps, rows: moved, kicks })
    run('addMoves', particles, { moved, before: pointer('before'), sums: pointer('pushes') })
  }
  expect(violated()).toBeLessThan(0.5 * before)
  run('halfKickOfLinks', particles, { pushes: pointer('pushes'), first: 0, h: 0.01, halfKick: pointer('halfKick') }) // prettier-ignore
  run('addKicks', particles, { kicks, first: 0, h: 0.01, velocity: pointer('halfKick') })
  const strains = { breaks: 0.02, yields: 0.001, creep: 0.3, flag: pointer('flag') }
  run('strainSteps', stepCount, { steps, links, ...bodies, ...strains })
  const most = run('syncSteps', 0, { count: stepCount, steps, links })
  const stretch = lengths().map((d) => d / 0.1 - 1)
  // what broke does not count for the most that one has borne
  expect(most).toBeLessThanOrEqual(0.02)
  stretch.forEach((wanted, n) => {
    const record = heap.f64(links + n * link.SIZE * 8, link.SIZE)
    expect(record[link.stretch]).toBeCloseTo(wanted, 5)
    expect(record[link.holds]).toBe(wanted > 0.02 ? 0 : 1)
    const over = wanted > 0.001 ? wanted - 0.001 : wanted < -0.001 ? wanted + 0.001 : 0
    expect(record[link.restLength]).toBeCloseTo(0.1 * (1 + 0.3 * over), 6)
  })
  expect(heap.u32(pointer('flag'), 1)[0]).toBe(1)
  run('energyOfLinks', 0, { links, count, moved, ...rule })
  run('linkEnds', count, { links, ids: pointer('ids'), particles, first: 0, ends: pointer('ends') })
  const lists = { first: pointer('first'), partners: pointer('partners') }
  run('partnersOfEnds', 0, { count, ends: pointer('ends'), particles, ...lists })
  const partnersOf = (i: number): number[] => {
    const [from, to] = [
      heap.u32(lists.first, particles + 1)[i]!,
      heap.u32(lists.first, particles + 1)[i + 1]!,
    ]
    return Array.from(heap.u32(lists.partners, 2 * count).subarray(from, to)).sort((a, b) => a - b)
  }
  expect([0, 3, 20].map(partnersOf)).toEqual([
    [1, 15],
    [2, 4, 18],
    [19, 21],
  ])
  const left = run('removeBroken', 0, { links, count, broken: pointer('broken') })
  expect(left).toBe(stretch.filter((one) => one <= 0.02).length)
  expect(left).toBeLessThan(count)
})
