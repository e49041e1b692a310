/** What is taken of the heap in a frame is given back: for every kind of influence with every response. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, INFLUENCES, type Shot } from '../src/index.ts'
import { ASSET, box } from './help.ts'
import { everything, INFLUENCE_SHOTS, responsesTo, SHOTS } from './shots.ts'

/** A machine that counts the bytes that are held. */
function counted() {
  const machine = createMachine()
  const { heap } = machine
  const held = new Map<number, number>()
  const [allocate, free] = [heap.allocate.bind(heap), heap.free.bind(heap)]
  heap.allocate = (bytes) => {
    const pointer = allocate(bytes)
    held.set(pointer, bytes)
    return pointer
  }
  heap.free = (pointer) => {
    held.delete(pointer)
    free(pointer)
  }
  return { machine, bytes: () => [...held.values()].reduce((a, b) => a + b, 0), blocks: () => held.size }
}

/** Blocks held after some frames, and after many more in which nothing new can come. */
function grown(shot: Shot, warm: number, frames: number): [number, number] {
  const { machine, blocks } = counted()
  const simulation = createSimulation(machine, shot, new Map([[ASSET, box()]]))
  for (let n = 0; n < warm; n++) simulation.advance()
  const before = blocks()
  for (let n = 0; n < frames; n++) simulation.advance()
  return [before, blocks()]
}

test.each(INFLUENCE_SHOTS.map(({ kind }) => kind))('%s with every response it takes', (kind) => {
  const { parameters } = INFLUENCES.find((one) => one.kind === kind)!
  const responsive = Object.entries(parameters).flatMap(([name, one]) =>
    'responsive' in one && one.responsive ? [name] : [],
  )
  const { shot } = INFLUENCE_SHOTS.find((one) => one.kind === kind)!
  for (const to of responsive.length > 0 ? responsive : [null]) {
    const [before, after] = grown(shot(to ? { responses: responsesTo(to) } : {}), 8, 30)
    expect([to, after]).toEqual([to, before])
  }
})

test('300 frames of a response to the distance of a goal take no more than ten', () => {
  const influence = {
    id: 'w',
    kind: 'wind',
    weights: { Loose: 1 },
    responses: responsesTo('strength').filter((one) => 'from' in one && one.from === 'goal'),
  }
  const [before, after] = grown(
    everything([influence], { shot: { frames: { first: 1, last: 400, rate: 24 } } }),
    10,
    290,
  )
  expect(after).toBe(before)
})

test.each(Object.keys(SHOTS))('all is given back when it ends: %s', (name) => {
  const { machine, bytes } = counted()
  const start = bytes()
  for (let n = 0; n < 2; n++) {
    const simulation = createSimulation(machine, SHOTS[name]!(), new Map([[ASSET, box()]]))
    for (let k = 0; k < 4; k++) simulation.advance()
    simulation.measures()
    const snapshot = simulation.snapshot()
    simulation.restore(snapshot)
    simulation.advance()
    simulation.dispose()
    expect(bytes()).toBe(start)
  }
})
