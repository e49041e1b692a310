/** Stage 3, cues: particles go from one phase to another. Of those that hold, the first in order counts. */
import { CUES } from '../cues/index.ts'
import type { CueContext } from '../cues/cue.ts'
import { drawRandoms } from '../math/draw.ts'
import { nearSurface, signLimit } from '../scene/distance.ts'
import type { Places } from '../masks/mask.ts'
import { seedFrom, STREAM } from '../math/random.ts'
import { valuesAt } from '../document/keys.ts'
import { DIES, type Cue } from '../document/types.ts'
import { goalDistances, type GoalRun, type GoalWorld } from './targets.ts'
import type { PopulationRun } from './populationState.ts'
import { COLUMNS, compact, floats, isWhole, view, words, type ColumnName } from '../state/columns.ts'

interface CuedRun extends PopulationRun, GoalRun {
  source: GoalRun['source'] & { cues: Cue[] }
}

export function giveCues(run: CuedRun, world: GoalWorld & { from: number; rate: number }): void {
  const { from: frame } = world
  const { columns, source, phases } = run
  if (source.cues.length === 0 || columns.count === 0) return
  const phase = words(columns, 'phase')
  const age = floats(columns, 'age')
  const phaseAge = floats(columns, 'phaseAge')
  const done = new Uint8Array(columns.count)
  let dying = 0
  for (const cue of source.cues) {
    const from = phases.indexOf(cue.from)
    const to = cue.to === DIES ? -1 : phases.indexOf(cue.to)
    // who is born in this substep is not there yet
    const chosen: number[] = []
    for (let i = 0; i < columns.count; i++) if (phase[i] === from && !done[i] && age[i]! >= 0) chosen.push(i)
    if (chosen.length === 0) continue
    const picked = pick(world, run, chosen, seedFrom(run.seed, cue.id))
    const kind = CUES.find((one) => one.kind === cue.when.kind)!
    const test = kind.test(valuesAt(kind.parameters, cue.when, frame), picked.context)
    chosen.forEach((i, k) => {
      if (!test(k)) return
      if (cue.chance < 1 && picked.chance(k) >= cue.chance) return
      if (to >= 0) {
        phase[i] = to
        phaseAge[i] = 0
        done[i] = 1
      } else {
        dying++
        done[i] = 2
      }
    })
    picked.free()
  }
  if (dying > 0) run.died += compact(columns, (i) => done[i] === 2)
}

/** The chosen particles as a cue sees them; what it does not ask for is not made. */
function pick(
  world: GoalWorld & { from: number; rate: number },
  run: CuedRun,
  chosen: number[],
  seed: number,
) {
  const { machine, bodies, masks, from: frame, rate } = world
  const { columns } = run
  const { heap } = machine
  const count = chosen.length
  const owned: number[] = []
  const gathered = (name: ColumnName): number => {
    const { width } = COLUMNS[name]
    const pointer = heap.allocate(count * width * 4)
    owned.push(pointer)
    const all = words(columns, name)
    const out = heap.u32(pointer, count * width)
    for (let k = 0; k < count; k++) {
      for (let c = 0; c < width; c++) out[k * width + c] = all[chosen[k]! * width + c]!
    }
    return pointer
  }
  let known: Places | undefined
  const places = (): Places =>
    (known ??= {
      count,
      positions: gathered('position'),
      frame,
      ...(columns.at.anchor ? { anchors: { anchor: gathered('anchor'), at: gathered('anchorAt') } } : {}),
    })
  let draws: Float64Array | undefined
  const random4 = (): Float64Array =>
    (draws ??= drawRandoms(
      machine,
      Uint32Array.from(chosen, (i) => (view(columns, 'id') as Uint32Array)[i]!),
      seed,
      STREAM.cue,
    ))
  const context: CueContext = {
    machine,
    count,
    rate,
    column(name) {
      const pointer = gathered(name)
      const length = count * COLUMNS[name].width
      return (isWhole(name) ? heap.u32(pointer, length) : heap.f32(pointer, length)).slice()
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
      const limit = signLimit(body, frame, reach)
      const near = nearSurface(machine, body, frame, places().positions, count, true, limit)
      const values = heap.f32(near.distance, count).slice()
      near.free()
      return values
    },
    toGoal(goal) {
      const all = goalDistances(world, run, goal, frame)
      return Float32Array.from(chosen, (i) => all[i]!)
    },
    random: () => Float64Array.from({ length: count }, (_, k) => random4()[k * 4]!),
  }
  return {
    context,
    /** The fourth number of each one's own: kinds use the first. */
    chance: (k: number): number => random4()[k * 4 + 3]!,
    free: () => owned.forEach((pointer) => heap.free(pointer)),
  }
}
