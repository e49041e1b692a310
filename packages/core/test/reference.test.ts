/** Whole shots on the compiled kernels and on their TypeScript form: the same bytes. */
import { createHeap, createMachine, inOrder, type Machine } from '@tangle/kernels'
import { createSimulation, type Shot } from '../src/index.ts'
import { acting, ASSET, box, burst, shotOf } from './help.ts'

type Kernels = Record<string, (...values: number[]) => number>
const reference = (await import('../../kernels/assembly/index' as string)) as Kernels
const { bind } = (await import('../../kernels/src/machine.reference' as string)) as {
  bind(buffer: ArrayBufferLike): void
}

/** A machine of the clear form; its memory does not grow. */
function clearMachine(): Machine {
  const memory = new WebAssembly.Memory({ initial: 1024, maximum: 1024, shared: true })
  bind(memory.buffer)
  return {
    heap: createHeap(memory),
    threads: 1,
    run: (kernel, count, values) => void reference[kernel]!(0, count, ...inOrder(kernel, values), 0),
    call: (kernel, values) => reference[kernel]!(...inOrder(kernel, values)),
  }
}

const keys = (...values: number[][]) => ({ keys: values })
const grains = (influences: object[]): Shot =>
  shotOf(
    {
      phases: ['Held', 'Loose'],
      particle: { radius: { mean: 0.06, spread: 0.2 }, density: 1000 },
      births: [burst({ kind: 'volume', fill: 'grid', spacing: 0.13, amount: { burst: 'all', at: 1 } })],
      influences: [acting('gravity'), acting('floor', { height: -0.6 }), ...influences],
    },
    {
      quality: { substeps: 3, iterations: 3 },
      meshes: [
        {
          id: 'box',
          source: { asset: ASSET },
          place: {
            position: [keys([1, -1.2], [20, 0.3]), 0.3, 0],
            rotation: [0, keys([1, 0], [20, 90]), 20],
            scale: [0.6, 0.6, 0.6],
          },
          deform: [{ id: 'r', kind: 'ripple', amount: 0.02, wavelength: 0.4 }],
        },
      ],
    },
  )

test.each([
  [
    'grains that touch, bounce off a moving, rippling mesh and go to sleep',
    [
      acting('selfCollision', { sticky: 2 }),
      acting('collide', { mesh: 'box', side: 'either', deflection: 30, bounce: 0.6 }),
      acting('sleep', { speed: 0.3, wait: 0.1 }),
    ],
  ],
  [
    'linked grains that are cut and break',
    [
      acting('selfCollision'),
      acting('link', { to: 'faces', stiffness: 0.8, breaks: 0.1, creep: 0.3, cut: 'box' }),
    ],
  ],
])('%s', (_, influences) => {
  const shot = grains(influences)
  const run = (machine: Machine): string[] => {
    const simulation = createSimulation(machine, shot, new Map([[ASSET, box()]]))
    return Array.from({ length: 12 }, () => {
      simulation.advance()
      return simulation.fingerprint()
    })
  }
  expect(run(clearMachine())).toEqual(run(createMachine()))
})

test('stopped and resumed from a snapshot, links and contacts go on as if nothing had been', () => {
  const shot = grains([acting('selfCollision'), acting('link', { to: 'grid', stiffness: 0.9, breaks: 0.05 })])
  const meshes = new Map([[ASSET, box()]])
  const straight = createSimulation(createMachine(), shot, meshes)
  for (let n = 0; n < 10; n++) straight.advance()
  const snapshot = straight.snapshot()
  const resumed = createSimulation(createMachine(), shot, meshes)
  resumed.restore(snapshot)
  for (const one of [straight, resumed]) for (let n = 0; n < 8; n++) one.advance()
  expect(resumed.fingerprint()).toBe(straight.fingerprint())
  expect(resumed.measures().populations[0]!.links).toEqual(straight.measures().populations[0]!.links)
})
