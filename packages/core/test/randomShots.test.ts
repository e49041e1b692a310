/** Documents at random through the simulation: nothing throws, nothing becomes no number, nothing grows. */
import fc from 'fast-check'
import { createMachine } from '@tangle/kernels'
import { BirthError } from '../src/births/birth.ts'
import {
  BIRTHS,
  EVENT_KINDS,
  createSimulation,
  DEFORMATIONS,
  INFLUENCES,
  MASKS,
  type Parameter,
  type Parameters,
} from '../src/index.ts'
import { ASSET, box } from './help.ts'
import { allNamesOf, everything } from './shots.ts'

/** A value that a parameter may have: mostly usual, now and then at an end of its range. */
function valueOf(parameter: Parameter): fc.Arbitrary<unknown> | null {
  switch (parameter.type) {
    case 'number': {
      const within = (low: number, high: number) =>
        parameter.whole
          ? fc.integer({ min: Math.ceil(low), max: Math.max(Math.ceil(low), Math.floor(high)) })
          : fc.integer({ min: 0, max: 4096 }).map((k) => low + ((high - low) * k) / 4096)
      const [low, high] = parameter.usual
      const usual = within(low, high)
      const ends = fc.constantFrom(...parameter.range.map((x) => Math.max(-1e4, Math.min(1e4, x))))
      const plain = fc.oneof({ weight: 9, arbitrary: usual }, { weight: 1, arbitrary: ends })
      if (!parameter.keyable) return plain
      const keys = fc.tuple(usual, usual).map(([a, b]) => ({ keys: [[1, a], [9, b, 'smooth']] })) // prettier-ignore
      return fc.oneof({ weight: 4, arbitrary: plain }, { weight: 1, arbitrary: keys })
    }
    case 'vector': {
      const [low, high] = parameter.usual
      const part = fc.integer({ min: 0, max: 4096 }).map((k) => low + ((high - low) * k) / 4096)
      return fc.tuple(part, part, part)
    }
    case 'choice':
      return fc.constantFrom(...Object.keys(parameter.options))
    default:
      return null
  }
}
/** An entry of a kind with some of its parameters set. */
function entryOf(kinds: { kind: string; parameters: Parameters }[]): fc.Arbitrary<Record<string, unknown>> {
  return fc.constantFrom(...kinds).chain(({ kind, parameters }) => {
    const free = Object.entries(parameters).flatMap(([name, one]) => {
      const value = valueOf(one)
      return value ? [[name, fc.option(value, { nil: undefined, freq: 2 })] as const] : []
    })
    return fc.record(Object.fromEntries(free)).map((values) => ({
      kind,
      ...allNamesOf(parameters),
      ...Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined)),
    }))
  })
}

const documents = fc.record({
  influences: fc.array(entryOf(INFLUENCES), {
    minLength: 1,
    maxLength: 5,
  }),
  // no mesh of theirs is broken
  birth: entryOf(BIRTHS.filter(({ makesPieces, prepare }) => prepare && !makesPieces)),
  offspring: fc.option(
    fc.record({
      birth: entryOf(BIRTHS.filter(({ prepare }) => !prepare)),
      from: fc.constantFrom('dust', 'others'),
      amount: fc.constantFrom(
        ...[
          { spacing: 0.05, cap: 40 },
          { rate: 20, cap: 40 },
        ],
        ...EVENT_KINDS.map((event) => ({ event, count: 2, chance: 0.7, cap: 5 })),
      ),
    }),
  ),
  mask: entryOf(MASKS),
  deform: fc.array(entryOf(DEFORMATIONS), { maxLength: 2 }),
  seed: fc.integer({ min: 0, max: 2 ** 31 }),
  substeps: fc.integer({ min: 1, max: 4 }),
  rate: fc.constantFrom(12, 24, 30, 60),
  radius: fc.constantFrom(0.001, 0.05, 0.4),
  lifespan: fc.constantFrom(null, 5),
})

test('documents at random: finite, to the byte after a resume, and all memory given back', () => {
  let ran = 0
  fc.assert(
    fc.property(
      documents,
      ({ influences, birth, offspring, mask, deform, seed, substeps, rate, radius, lifespan }) => {
        let shot
        try {
          shot = everything(
            influences.map((one, n) => ({ id: `i${n}`, weights: { Loose: 1 }, ...one })),
            {
              population: {
                particle: {
                  radius: { mean: radius, spread: 0.3 },
                  density: 1000,
                  lifespan: lifespan && { mean: lifespan, spread: 2 },
                },
                births: [
                  { id: 'b', mesh: 'there', into: 'Loose', ...birth, amount: { rate: 900 } },
                  ...(offspring
                    ? [
                        {
                          id: 'o',
                          into: 'Loose',
                          ...offspring.birth,
                          generations: 2,
                          from: offspring.from,
                          amount: offspring.amount,
                        },
                      ]
                    : []),
                ],
              },
              shot: {
                seed,
                frames: { first: 1, last: 40, rate },
                quality: { substeps, iterations: 2 },
                masks: [{ id: 'm', ...mask, ...('mask' in mask ? { mask: undefined } : {}) }],
                meshes: [
                  { id: 'box', source: { asset: ASSET } },
                  {
                    id: 'there',
                    source: { asset: ASSET },
                    detail: 0.4,
                    deform: deform.map((one, n) => ({ id: `d${n}`, ...one })),
                  },
                ],
              },
            },
          )
        } catch {
          // what the schema refuses is not the simulation's business: a mask that needs itself, and the like
          return
        }
        const machine = createMachine()
        const held = new Set<number>()
        const [allocate, free] = [
          machine.heap.allocate.bind(machine.heap),
          machine.heap.free.bind(machine.heap),
        ]
        machine.heap.allocate = (bytes) => {
          const pointer = allocate(bytes)
          held.add(pointer)
          return pointer
        }
        machine.heap.free = (pointer) => (held.delete(pointer), free(pointer))
        const simulation = createSimulation(machine, shot, new Map([[ASSET, box()]]))
        try {
          for (let n = 0; n < 8; n++) simulation.advance()
        } catch (error) {
          // a grid without end, a spout narrower than a particle: refused with the reason
          expect(error).toBeInstanceOf(BirthError)
          simulation.dispose()
          expect([...held]).toEqual([])
          return
        }
        simulation.measures()
        for (const { columns, count } of simulation.populations()) {
          for (const [name, values] of Object.entries(columns)) {
            // endless lives are what they are
            if (name === 'lifespan') continue
            for (const value of values!.subarray(0, Math.min(values!.length, count * 4)))
              if (!Number.isFinite(value)) throw new Error(`${name} has ${value}`)
          }
          const ids = columns.id!.subarray(0, count)
          if (new Set(ids).size !== count) throw new Error('an id is there twice')
        }
        const first = simulation.fingerprint()
        simulation.dispose()
        if (held.size > 0) throw new Error(`${held.size} blocks are not given back`)
        // again, and with a stop in between: the same bytes
        const again = createSimulation(createMachine(), shot, new Map([[ASSET, box()]]))
        for (let n = 0; n < 4; n++) again.advance()
        const resumed = createSimulation(createMachine(), shot, new Map([[ASSET, box()]]))
        resumed.restore(again.snapshot())
        for (let n = 0; n < 4; n++) resumed.advance()
        if (resumed.fingerprint() !== first) throw new Error('resumed, it goes another way')
        ran++
      },
    ),
    { numRuns: 32, seed: Number(process.env.TANGLE_SEED ?? 12), endOnFailure: true },
  )
  expect(ran).toBeGreaterThan(18)
}, 180_000)
