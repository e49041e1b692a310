/**
 * The emission schedule: how many, when and where. A particle born within a substep starts with age −(time since
 * the substep began); the integrator moves it only for what is left, so births are even in time and a burst
 * at a frame stands exactly where it was born when that frame is shown.
 */
import { birthKind } from '../registry.ts'
import type { BirthMesh } from '../births/birth.ts'
import type { PointSource } from '../scene/points.ts'
import { sweep, type Sweep } from '../births/sweep.ts'
import { random, STREAM } from '../math/random.ts'
import { integralOf, valuesAt } from '../document/keys.ts'
import type { Amount } from '../document/parameters.ts'
import { spawn } from './spawn.ts'
import {
  isInSlice,
  type Emission,
  type EmissionState,
  type Moment,
  type PopulationState,
  type Stretch,
} from './world.ts'

/** What a birth gives in a stretch. `moments` are 0 at its start, 1 at its end. */
interface Given {
  source: PointSource
  moments: Float64Array
  /** m/s, where it follows from how many there are. */
  speed?: number
}

/** Gives the particles that are born in a substep. */
export function emit(
  population: PopulationState,
  { from, to, first, rate, shot, share, slice }: Moment,
): void {
  const { last } = shot.frames
  // of a liquid fewer are born, each larger; of others some are left out
  const [part, coarse] = population.isLiquid ? [1, share] : [share, 1]
  const stretch = { from, to, rate, first, last, opening: to === from, share: part, slice }
  for (const run of population.emissions) {
    if (run.rule.muted) continue
    const given = givenBy(run, stretch, coarse)
    if (given && given.moments.length > 0) giveBirth(population, run, stretch, given)
  }
}

function givenBy(run: Emission, stretch: Stretch, coarse: number): Given | null {
  const { amount } = run.rule
  if ('burst' in amount) return burst(run, amount, stretch, coarse)
  if ('swept' in amount) return swept(run, amount, stretch)
  // others are of particles
  return 'rate' in amount ? atRate(run, amount, stretch, coarse) : null
}

function burst(
  run: Emission,
  amount: Extract<Amount, { burst: unknown }>,
  { from, to, first, opening }: Stretch,
  coarse: number,
): Given | null {
  const now = opening ? amount.at === first : amount.at > from && amount.at <= to
  if (!now) return null
  const source = pointsOf(run, amount.at)
  const all = source.offered ?? 0
  const wanted =
    amount.burst === 'all' && birthKind(run.rule.kind).fills
      ? all
      : Math.round((amount.burst === 'all' ? all : amount.burst) * coarse)
  const moment = opening ? 0 : (amount.at - from) / (to - from)
  const count = source.offered === null ? wanted : Math.min(wanted, source.offered)
  return { source, moments: new Float64Array(count).fill(moment) }
}

function atRate(
  run: Emission,
  amount: Extract<Amount, { rate: unknown }>,
  { from, to, rate, first, last, opening }: Stretch,
  coarse: number,
): Given | null {
  if (opening) return null
  const start = Math.max(from, amount.from ?? first)
  const end = Math.min(to, amount.to ?? last)
  if (end <= start) return null
  const { state } = run
  const added = (coarse * integralOf(amount.rate, start, end)) / rate
  if (added === 0) return null
  const source = pointsOf(run, start)
  // where there is no place for them they are never born, rather than all at once later
  if (source.offered === 0) return null
  const before = state.owed
  state.owed += added
  const count = owedNow(state, amount.cap)
  const moments = Float64Array.from({ length: count }, (_, k) => {
    const share = Math.min(1, Math.max(0, (state.done + k + 1 - before) / added))
    return (start + (end - start) * share - from) / (to - from)
  })
  const { flow, parameters } = birthKind(run.rule.kind)
  if (!flow) return { source, moments }
  const perSecond = (added * rate) / (end - start)
  return { source, moments, speed: flow(valuesAt(parameters, run.rule, start), run.diameter, perSecond) }
}

/** Births by the area that a mask has just swept: `swept` of them for the whole surface. */
function swept(
  run: Emission,
  amount: Extract<Amount, { swept: unknown }>,
  { from, to, first, last, opening }: Stretch,
): Given | null {
  if (to < (amount.from ?? first) || from >= (amount.to ?? last)) return null
  const { level = 0.5 } = amount
  const { body, masks } = run
  const nothing = (): Float32Array => new Float32Array(body.mesh.positions.length / 3).fill(-Infinity)
  const before = opening
    ? nothing().fill(level - 1)
    : run.swept?.frame === from
      ? run.swept.values
      : masks.atVertices(amount.mask, body, from)
  const after = masks.atVertices(amount.mask, body, to)
  run.swept = { frame: to, values: after }
  const source = sweep(meshOf(run, from), body.triangles(), before, after, level)
  if (source.area === 0) return null
  const whole = body.areaAt(from)
  run.state.owed += (amount.swept * source.area) / whole
  const moments = new Float64Array(owedNow(run.state))
  return { source: opening ? atOnce(source) : source, moments }
}

/** What the level has passed already at the first frame is born there and then. */
const atOnce = (source: Sweep): PointSource => ({
  ...source,
  points(ids, turns) {
    const { moments: _, ...points } = source.points(ids, turns)
    return points
  },
})

/** Whole births owed that have not been given. A sum that should be whole may fall short by rounding. */
const owedNow = (state: EmissionState, cap = Infinity): number =>
  Math.max(0, Math.min(Math.floor(state.owed + 1e-6), cap) - state.done)

const nameOf = ({ shotMesh: { name, id } }: Emission['body']): string => name ?? id

const meshOf = (run: Emission, frame: number): BirthMesh => ({
  ...run.mesh,
  scale: run.body.sizeAt(frame),
  liquid: { place: run.body.placeAt(frame), named: nameOf(run.body), diameter: run.diameter },
  sized: () => run.body.sizedAt(frame),
  maskAt: (mask) => run.masks.atVertices(mask, run.body, frame),
  ...(run.cut ? { cut: () => run.cut!(frame) } : {}),
})

/** The points a birth draws from, prepared anew when the scale of its mesh or a mask that it reads differ. */
function pointsOf(run: Emission, frame: number): PointSource {
  const kind = birthKind(run.rule.kind)
  // who fills a mesh asks how it stands
  const stands = kind.fills ? run.body.placeAt(frame).join() : ''
  const key = `${run.body.sizeAt(frame).join()} ${stands} ${run.rule.density === undefined ? '' : frame} ${run.cut ? Math.floor(frame) : ''}`
  if (run.prepared?.key !== key) {
    const values = valuesAt(kind.parameters, run.rule, frame)
    // those without are born of particles and are no emissions
    run.prepared = { key, source: kind.prepare!(values, meshOf(run, frame)) }
  }
  return run.prepared.source
}

function giveBirth(
  population: PopulationState,
  run: Emission,
  stretch: Stretch,
  { source, moments, speed }: Given,
): void {
  const { share, slice } = stretch
  const chosen: number[] = []
  for (let k = 0; k < moments.length; k++) {
    const id = population.nextId + k
    if (slice && !isInSlice(id, slice)) continue
    if (share >= 1 || random(population.seed, id, STREAM.share) < share) chosen.push(k)
  }
  const ids = Uint32Array.from(chosen, (k) => population.nextId + k)
  const turns =
    'burst' in run.rule.amount && source.offered !== null
      ? Uint32Array.from(chosen, (k) => Math.floor((k * source.offered!) / moments.length))
      : undefined
  population.nextId += moments.length
  run.state.done += moments.length
  if (chosen.length === 0) return
  const points = source.points(ids, turns)
  const times = points.moments ?? Float64Array.from(chosen, (k) => moments[k]!)
  spawn(population, run, stretch, { ids, points, times, ...(speed === undefined ? {} : { speed }) })
}
