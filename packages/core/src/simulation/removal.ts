/** Takes out the dead. */
import { appendRows, compact, floats, view } from '../state/columns.ts'
import { DEATHS, eventOf } from '../state/events.ts'
import type { Moment, PopulationState } from './world.ts'

/** Below this nothing can be seen, metres. */
export const LEAST_RADIUS = 1e-6

/** A particle whose age reaches its lifespan (to the nearest substep), or whose size is 0, is gone. */
export function removeDead(population: PopulationState, { machine, h, to, rate }: Moment): void {
  const { columns, source } = population
  const shrinks = columns.at.birthRadius !== 0
  if (source.particle.lifespan === null && !shrinks) return
  const [age, lifespan] = [floats(columns, 'age'), floats(columns, 'lifespan')]
  const { heap } = machine
  const { count, at } = columns
  const out = heap.allocate(count * 4)
  const found = machine.call('selectDead', {
    count,
    age: at.age,
    lifespan: at.lifespan,
    radius: at.radius,
    half: h / 2,
    least: shrinks ? LEAST_RADIUS : 0,
    out,
  })
  const gone = Array.from(heap.u32(out, found))
  heap.free(out)
  const isOld = (i: number): boolean => age[i]! + h / 2 >= lifespan[i]!
  // its life ended when its age reached its lifespan, a little before or after the end of the substep
  const momentOf = (i: number): number => (isOld(i) ? to - Math.max(0, age[i]! - lifespan[i]!) * rate : to)
  remove(population, gone, momentOf, (i) => (isOld(i) ? 'age' : 'size'))
}

/** Takes out the particles that `isGone` names, and records when and why each died. */
export function removeThose(
  population: PopulationState,
  isGone: (i: number) => boolean,
  momentOf: (i: number) => number,
  causeOf: (i: number) => (typeof DEATHS)[number],
): void {
  const gone: number[] = []
  for (let i = 0; i < population.columns.count; i++) if (isGone(i)) gone.push(i)
  remove(population, gone, momentOf, causeOf)
}

/** Takes out particles by their numbers, which rise. */
function remove(
  { columns, events, lineage }: PopulationState,
  gone: number[],
  momentOf: (i: number) => number,
  causeOf: (i: number) => (typeof DEATHS)[number],
): void {
  if (gone.length === 0) return
  const [id, position] = [view(columns, 'id'), floats(columns, 'position')]
  for (const i of gone) {
    const place: [number, number, number] = [position[i * 3]!, position[i * 3 + 1]!, position[i * 3 + 2]!]
    events.add(eventOf('death', momentOf(i), id[i]!, { place, detail: DEATHS.indexOf(causeOf(i)) }))
  }
  if (lineage) appendRows(lineage.dead, columns, gone)
  compact(columns, gone)
}
