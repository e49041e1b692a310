/** Blocks beyond 2 GiB, where a pointer no longer fits a signed number, hold the same as near ones; and a full memory says so. */
import { createMachine, OutOfMemory } from '@tangle/kernels'
import { createSimulation, type Shot } from '../src/index.ts'
import { ASSET, box } from './help.ts'
import { INFLUENCE_SHOTS, SHOTS } from './shots.ts'

// reserved, not touched: it takes addresses and no memory
const far = createMachine()
far.heap.allocate(2 ** 31)

function fingerprint(shot: Shot, machine = createMachine()): string {
  const simulation = createSimulation(machine, shot, new Map([[ASSET, box()]]))
  for (let n = 0; n < 6; n++) simulation.advance()
  simulation.measures()
  return simulation.fingerprint()
}

test.each(Object.keys(SHOTS))('%s', (name) => {
  expect(fingerprint(SHOTS[name]!(), far)).toBe(fingerprint(SHOTS[name]!()))
})
test('every influence', () => {
  for (const { kind, shot } of INFLUENCE_SHOTS)
    expect([kind, fingerprint(shot(), far)]).toEqual([kind, fingerprint(shot())])
})
test('a heap that is full says what to lower, and what was in it stays', () => {
  const machine = createMachine()
  const before = fingerprint(SHOTS[Object.keys(SHOTS)[0]!]!(), machine)
  expect(() => machine.heap.allocate(2 ** 33)).toThrow(OutOfMemory)
  expect(() => machine.heap.allocate(2 ** 33)).toThrow(/lower the particle count/)
  expect(fingerprint(SHOTS[Object.keys(SHOTS)[0]!]!(), machine)).toBe(before)
})
