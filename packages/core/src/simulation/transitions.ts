/** Phase transitions: particles go from one phase to another. Of those that hold, the first in order counts. */
import { cueKind } from '../registry.ts'
import type { CueContext } from '../cues/cue.ts'
import { drawRandoms } from '../math/draw.ts'
import { signedNear } from '../scene/distance.ts'
import type { Places } from '../masks/mask.ts'
import { seedFrom, STREAM } from '../math/random.ts'
import { valuesAt } from '../document/keys.ts'
import { DIES } from '../document/types.ts'
import { goalDistances } from './targets.ts'
import { removeThose } from './removal.ts'
import { ridesIn } from './riding.ts'
import type { Moment, PopulationState } from './world.ts'
import { attributeOf, floats, gatherRows, randomKeys, view, words } from '../state/columns.ts'
import { eventOf } from '../state/events.ts'
import type { AttributeName } from '../state/attributes.ts'

export function transition(population: PopulationState, moment: Moment): void {
  const { from: frame } = moment
  const { columns, source, events } = population
  const { phases } = source
  if (source.cues.length === 0 || columns.count === 0) return
  const phase = words(columns, 'phase')
  const phaseAge = floats(columns, 'phaseAge')
  const [id, position] = [view(columns, 'id'), floats(columns, 'position')]
  const placeOf = (i: number): [number, number, number] => [
    position[i * 3]!,
    position[i * 3 + 1]!,
    position[i * 3 + 2]!,
  ]
  const { machine } = moment
  const { heap } = machine
  const { count } = columns
  const [doneAt, chosenAt] = [heap.allocate(count * 4), heap.allocate(count * 4)]
  const done = heap.u32(doneAt, count).fill(0)
  const rides = ridesIn(source)
  let dying = 0
  for (const cue of source.cues) {
    const from = phases.indexOf(cue.from)
    const to = cue.to === DIES ? -1 : phases.indexOf(cue.to)
    // who is born in this substep is not there yet
    const found = machine.call('selectInPhase', {
      count,
      phase: columns.at.phase,
      wanted: from,
      age: columns.at.age,
      done: doneAt,
      out: chosenAt,
    })
    if (found === 0) continue
    const chosen = heap.u32(chosenAt, found)
    const picked = pick(moment, population, chosen, seedFrom(population.seed, cue.id), rides[from]!)
    const kind = cueKind(cue.when.kind)
    const test = kind.test(valuesAt(kind.parameters, cue.when, frame), picked.context)
    chosen.forEach((i, k) => {
      if (!test(k)) return
      if (cue.chance < 1 && picked.chance(k) >= cue.chance) return
      if (to >= 0) {
        phase[i] = to
        phaseAge[i] = 0
        done[i] = 1
        events.add(eventOf('phase', frame, id[i]!, { place: placeOf(i), detail: 64 * from + to }))
      } else {
        dying++
        done[i] = 2
      }
    })
    picked.free()
  }
  const leaves = dying > 0 ? done.slice() : null
  heap.free(doneAt)
  heap.free(chosenAt)
  if (leaves)
    removeThose(
      population,
      (i) => leaves[i] === 2,
      () => frame,
      () => 'cue',
    )
}

/** The chosen particles as a cue sees them, who are held where they were born or not; what it does not ask for is not made. */
function pick(
  moment: Moment,
  population: PopulationState,
  chosen: Uint32Array,
  seed: number,
  rides: boolean,
) {
  const { machine, bodies, masks, from: frame, rate } = moment
  const { columns } = population
  const { heap } = machine
  const count = chosen.length
  const owned: number[] = []
  const gathered = (name: AttributeName): number => {
    const { width } = attributeOf(columns, name)
    const pointer = gatherRows(machine, chosen.byteOffset, count, columns.at[name]!, width)
    owned.push(pointer)
    return pointer
  }
  let known: Places | undefined
  const places = (): Places =>
    (known ??= {
      count,
      positions: gathered('position'),
      frame,
      ...(columns.at.anchor
        ? { anchors: { anchor: gathered('anchor'), at: gathered('anchorAt'), isHeld: () => rides } }
        : {}),
    })
  let draws: Float64Array | undefined
  const random4 = (): Float64Array =>
    (draws ??= drawRandoms(machine, heap.u32(gathered(randomKeys(columns)), count), seed, STREAM.cue))
  const context: CueContext = {
    machine,
    count,
    frame,
    rate,
    column(name) {
      const pointer = gathered(name)
      const length = count * attributeOf(columns, name).width
      return (
        attributeOf(columns, name).type === 'u32' ? heap.u32(pointer, length) : heap.f32(pointer, length)
      ).slice()
    },
    mask(id) {
      const out = heap.allocate(count * 4)
      masks.write(id, places(), out)
      const values = heap.f32(out, count).slice()
      heap.free(out)
      return values
    },
    distance(mesh, reach) {
      const body = bodies.get(mesh)!
      const near = signedNear(machine, body, frame, places().positions, count, reach)
      const values = heap.f32(near.distance, count).slice()
      near.free()
      return values
    },
    toGoal(goal) {
      const all = goalDistances(moment, population, goal, frame)
      return Float32Array.from(chosen, (i) => all[i]!)
    },
    random() {
      const all = random4()
      const own = new Float64Array(count)
      for (let k = 0; k < count; k++) own[k] = all[k * 4]!
      return own
    },
  }
  return {
    context,
    /** The fourth number of each one's own: kinds use the first. */
    chance: (k: number): number => random4()[k * 4 + 3]!,
    free: () => owned.forEach((pointer) => heap.free(pointer)),
  }
}
