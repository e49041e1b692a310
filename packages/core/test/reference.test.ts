/** Every kernel in whole shots, compiled and in its TypeScript form, call by call: the same bytes, and not the old ones. */
import {
  createHeap,
  createMemory,
  inOrder,
  instantiate,
  KERNELS,
  type KernelName,
  type Machine,
} from '@tangle/kernels'
import {
  BIRTHS,
  CUES,
  createSimulation,
  DEFORMATIONS,
  GOALS,
  INFLUENCES,
  MASKS,
  type Mesh,
  type Shot,
} from '../src/index.ts'
import { RANGE_KERNELS } from '../../kernels/build/signatures.ts'
import { CALLS } from '../../kernels/test/calls.ts'
import { ASSET, acting, box } from './help.ts'
import { allNamesOf, everything, INFLUENCE_SHOTS, namesOf, responsesTo, SHOTS } from './shots.ts'

type Kernels = Record<string, (...values: number[]) => number>
const reference = (await import('../../kernels/assembly/index' as string)) as Kernels
const { bind } = (await import('../../kernels/src/machine.reference' as string)) as {
  bind(buffer: ArrayBufferLike): void
}

/** Kernels that were seen to do something. */
const seen = new Set<string>()

/** Of each kernel in a shot so many calls are compared, the first ones, and one of so many of those after. */
const [ALL_OF, SOME_OF] = [12, 29]

/** A machine that does everything twice and compares: once compiled, once in the clear form on a copy of its memory. */
function twinMachine(): Machine {
  const memory = createMemory()
  const compiled = instantiate(memory)
  const heap = createHeap(memory)
  let twin = new Uint8Array(0)
  let before = new Uint8Array(0)
  let top = 2 ** 16
  const allocate = heap.allocate.bind(heap)
  heap.allocate = (bytes) => {
    const pointer = allocate(bytes)
    top = Math.max(top, pointer + bytes)
    return pointer
  }
  const calls = new Map<KernelName, number>()
  function both(kernel: KernelName, values: number[]): number {
    const nth = calls.get(kernel) ?? 0
    calls.set(kernel, nth + 1)
    if (nth >= ALL_OF && nth % SOME_OF > 0) return compiled[kernel](...values)
    const bytes = new Uint8Array(memory.buffer)
    if (twin.length !== bytes.length) {
      twin = new Uint8Array(bytes.length)
      before = new Uint8Array(bytes.length)
      bind(twin.buffer)
    }
    // lanes reach a little past the last block
    const end = Math.min(bytes.length, top + 64)
    twin.set(bytes.subarray(0, end))
    before.set(bytes.subarray(0, end))
    const result = compiled[kernel](...values)
    const expected = reference[kernel]!(...values)
    if (!Object.is(result ?? 0, expected ?? 0)) throw new Error(`${kernel} gives ${result}, not ${expected}`)
    const now = Buffer.from(memory.buffer as ArrayBuffer, 0, end)
    if (now.compare(twin, 0, end) !== 0) throw new Error(`${kernel} writes other bytes than its clear form`)
    if (result || now.compare(before, 0, end) !== 0) seen.add(kernel)
    return result
  }
  return {
    heap,
    threads: 1,
    run: (kernel, count, values) => void both(kernel, [0, count, ...inOrder(kernel, values), 0]),
    runPhases(kernel, phases, values) {
      const ordered = inOrder(kernel, values)
      for (const { from, count } of phases) both(kernel, [from, from + count, ...ordered, 0])
    },
    call: (kernel, values) => both(kernel, inOrder(kernel, values)),
  }
}

/** Volumes are searched cell by cell: as triangles go, the fewest make it bearable. */
const tetra: Mesh = {
  // slim, so that a coarse grid over it has few cells
  positions: new Float32Array([-0.5, -0.03, -0.03, 0.5, 0.03, -0.03, 0.5, -0.03, 0.03, -0.5, 0.03, 0.03]),
  triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]),
}
const simple = (kind: string) =>
  kind === 'volume'
    ? { shot: { meshes: ['box', 'there'].map((id) => ({ id, source: { asset: ASSET } })) } }
    : undefined

function compare(shot: Shot, frames: number, mesh: Mesh | undefined = box()): void {
  const simulation = createSimulation(twinMachine(), shot, new Map([[ASSET, mesh]]))
  for (let n = 0; n < frames; n++) simulation.advance()
  simulation.measures()
  expect(simulation.fingerprint()).toMatch(/^[0-9a-f]{16}$/)
  const { positions } = {
    positions: simulation.populations().flatMap(({ columns }) => Array.from(columns.position!)),
  }
  expect(positions.every(Number.isFinite)).toBe(true)
}

test.each(Object.keys(SHOTS))('%s', (name) => compare(SHOTS[name]!(), 10))
test.each(INFLUENCE_SHOTS.map(({ kind }) => kind))('influence %s, alone and with every response', (kind) => {
  const { shot } = INFLUENCE_SHOTS.find((one) => one.kind === kind)!
  compare(shot(), 4)
  const { parameters } = INFLUENCES.find((one) => one.kind === kind)!
  compare(shot(allNamesOf(parameters)), 3)
  const { strength } = parameters
  if (strength && 'responsive' in strength && strength.responsive)
    compare(shot({ responses: responsesTo('strength') }), 2)
})
// pieces have no kernels of their own, and need a broken mesh; those of particles have neither
test.each(BIRTHS.filter(({ makesPieces, prepare }) => prepare && !makesPieces).map(({ kind }) => kind))(
  'birth %s',
  (kind) =>
    compare(
      everything([acting('gravity')], {
        population: {
          births: [{ id: 'x', kind, mesh: 'there', into: 'Loose', amount: { rate: 800 } }],
          attributes: [{ id: 'heat', name: 'Heat', birth: { mask: 'm', low: 0, high: 1 } }],
        },
        ...simple(kind),
      }),
      4,
      simple(kind) && tetra,
    ),
)
test.each(MASKS.map(({ kind }) => kind))('mask %s, on a mesh and in space', (kind) => {
  const { parameters } = MASKS.find((one) => one.kind === kind)!
  const slab = { id: 'm', kind: 'slab', position: [0, 0, 0], direction: [1, 0, 0], soft: 1 }
  const mask = { id: 'x', kind, ...namesOf(parameters) }
  const wind = acting('wind', { responses: [{ to: 'strength', from: 'mask', mask: 'x', curve: [[0, 0], [1, 1]] }] }) // prettier-ignore
  const birth = {
    id: 'b',
    kind: 'surface',
    mesh: 'there',
    into: 'Loose',
    density: 'x',
    amount: { rate: 900 },
  }
  compare(everything([wind], { shot: { masks: [slab, mask] }, population: { births: [birth] } }), 4)
})
test.each(DEFORMATIONS.map(({ kind }) => kind))('deformation %s', (kind) =>
  compare(
    everything([acting('collide', { mesh: 'there', side: 'either' }), acting('gravity')], {
      shot: {
        meshes: [
          { id: 'box', source: { asset: ASSET }, place: { position: [0, 1.2, 0] } },
          { id: 'there', source: { asset: ASSET }, detail: 0.3, deform: [{ id: 'd', kind }] },
        ],
      },
    }),
    6,
  ),
)
test.each(GOALS.map(({ kind }) => kind))('goal %s', (kind) => {
  const goal = { id: 'g', kind, ...(kind === 'population' ? { population: 'others' } : { mesh: 'there' }) }
  compare(
    everything([acting('arrive', { goal: 'g' }), acting('face', { to: 'travel' })].slice(0, 1), {
      population: { goals: [goal] },
      ...simple(kind),
    }),
    5,
    simple(kind) && tetra,
  )
})
test.each(CUES.map(({ kind }) => kind))('cue %s', (kind) => {
  const { parameters } = CUES.find((one) => one.kind === kind)!
  const cues = [{ id: 'c', from: 'Loose', to: 'Late', when: { kind, ...namesOf(parameters) } }]
  compare(everything([acting('gravity')], { population: { phases: ['Loose', 'Late'], cues } }), 5)
})

test('every kernel was compared, and did something', () => {
  // what kernels/test compares by itself, each with its outputs changed
  const apart = new Set<string>(['exponentialDecay', 'philoxWords', 'philoxWord', 'followPaths'])
  for (const call of Object.values(CALLS)) call(((kernel: string) => apart.add(kernel)) as never)
  const never = KERNELS.filter((kernel) => !seen.has(kernel) && !apart.has(kernel))
  expect(never).toEqual([])
  expect(KERNELS.filter((kernel) => seen.has(kernel) && kernel in RANGE_KERNELS).length).toBeGreaterThan(60)
})
