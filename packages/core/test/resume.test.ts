/** Stopped at any frame and gone on from a snapshot, everything is as if nothing had been: state, links, covers, events. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, rowsOf, type Mesh, type Shot, type Simulation } from '../src/index.ts'
import { ASSET, box } from './help.ts'
import { SHOTS } from './shots.ts'
import { firstOf } from './wide.ts'

/** What a simulation says of itself, apart from the time it took. */
const said = (simulation: Simulation): unknown => {
  const { milliseconds: _, ...measures } = simulation.measures()
  return [
    simulation.fingerprint(),
    measures,
    simulation.events().map(rowsOf),
    simulation.meshes().map(({ id, positions }) => [id, Array.from(positions.subarray(0, 30))]),
  ]
}
const open = (shot: Shot, mesh: Mesh): Simulation =>
  createSimulation(createMachine(), shot, new Map([[ASSET, mesh]]))

describe.each(Object.keys(SHOTS))('%s', (name) => {
  const shot = SHOTS[name]!()
  test.each(firstOf(2, [2, 13, 7]))('from frame %p', (frame) => {
    const straight = open(shot, box())
    while (straight.frame < frame) straight.advance()
    const snapshot = straight.snapshot()
    const before = said(straight)
    const resumed = open(shot, box())
    resumed.restore(snapshot)
    expect(said(resumed)).toEqual(before)
    for (let n = 0; n < 9; n++) {
      straight.advance()
      resumed.advance()
      expect(said(resumed)).toEqual(said(straight))
    }
    // what was computed on has not changed the snapshot: a third goes the same way
    const third = open(shot, box())
    third.restore(snapshot)
    expect(said(third)).toEqual(before)
    for (let n = 0; n < 9; n++) third.advance()
    expect(third.fingerprint()).toBe(straight.fingerprint())
  })
})
