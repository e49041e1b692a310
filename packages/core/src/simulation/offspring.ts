/**
 * Births from particles. When all have been moved, each parent bears what it owes by the way it went or the time that has gone by, and what its events call for, at
 * that moment and place. The newborn make up for the rest of the substep by themselves and may bear in turn, until nobody does.
 */
import { BirthError } from '../births/birth.ts'
import type { Descent as Values } from '../births/particles.ts'
import { integralOf, valueAt, valuesAt } from '../document/keys.ts'
import type { Amount } from '../document/parameters.ts'
import type { Population } from '../document/types.ts'
import { philox, random, randoms, seedFrom, STREAM } from '../math/random.ts'
import { vectorOf } from '../math/vector.ts'
import { wayOf, type Way } from '../math/way.ts'
import { birthKind } from '../registry.ts'
import { descendsFrom } from '../schema/descent.ts'
import { offspringName } from '../state/attribute.ts'
import { floats, randomKeys, view, words, type Columns } from '../state/columns.ts'
import type { ParticleEvent } from '../state/events.ts'
import { bear, type Child } from './litter.ts'
import type { Descent, Lineage, Moment, PopulationState } from './world.ts'

/** Most children of a substep; more are a mistake. */
const MOST = 1_000_000
/** A birth counts as owed when so little is missing, by rounding. */
const NEARLY = 1e-6

/** The births from particles of a population. */
export const descentsOf = (source: Population, all: Population[]): Descent[] =>
  source.births.flatMap((rule) => {
    if (rule.from === undefined || rule.muted) return []
    const again = descendsFrom(source.id, source.id, all)
    const generations = again ? (rule.generations as number) : Infinity
    return [{ rule, column: offspringName(source.id, rule.id), generations }]
  })

/** Which of the parents of a population are new since it was last asked. */
interface Asked {
  rows: number
  dead: number
  events: number
}

/** @param onEventsOnly in the middle of nothing: no way was gone since the last time */
export function bearOffspring(moment: Moment, onEventsOnly = false): void {
  const { populations } = moment
  if (populations.every(({ descents }) => descents.length === 0)) return
  const asked = new Map(populations.map((one): [PopulationState, Asked] => [one, { rows: onEventsOnly ? one.columns.count : 0, dead: onEventsOnly ? Infinity : 0, events: 0 }])) // prettier-ignore
  let born: number
  do {
    const now = new Map(populations.map((one): [PopulationState, Asked] => [one, askedBy(one)]))
    born = 0
    for (const population of populations)
      for (const descent of population.descents) {
        const parents = populations.find(({ source }) => source.id === descent.rule.from)!
        const children = childrenOf(population, parents, descent, moment, asked.get(parents)!, now.get(parents)!) // prettier-ignore
        born += children.length
        if (children.length > 0) bear(population, descent, moment, children)
      }
    for (const [one, until] of now) asked.set(one, until)
  } while (born > 0)
  for (const { lineage } of populations) if (lineage) forget(lineage)
}

const askedBy = ({ columns, lineage }: PopulationState): Asked => ({
  rows: columns.count,
  dead: lineage?.dead.count ?? 0,
  events: lineage?.events.length ?? 0,
})

export function forget(lineage: Lineage): void {
  lineage.events.length = 0
  lineage.dead.count = 0
}

function refuseFlood(born: number, name: string, { rule }: Descent): void {
  if (born <= MOST) return
  throw new BirthError(
    `"${rule.id}" of ${name} bears more than a million within a substep: let each parent bear less, or fewer generations`,
  )
}

/** What parents that are new since `since` bear by one birth. */
function childrenOf(
  population: PopulationState,
  parents: PopulationState,
  descent: Descent,
  moment: Moment,
  since: Asked,
  until: Asked,
): Child[] {
  const { rule } = descent
  const kind = birthKind(rule.kind)
  const values = valuesAt(kind.parameters, rule, moment.from) as unknown as Values
  const context: Context = {
    name: population.source.name,
    amount: rule.amount as Bearing,
    values,
    descent,
    seed: seedFrom(population.seed, rule.id),
    phase: values.parentPhase === undefined ? -1 : parents.source.phases.indexOf(values.parentPhase),
    moment,
  }
  const { lineage } = parents
  const out: Child[] = []
  if ('event' in rule.amount) {
    for (const event of lineage!.events.slice(since.events, until.events)) bearAtEvent(out, context, parents, event) // prettier-ignore
    return out
  }
  bearOnWays(out, context, parents.columns, since.rows, until.rows, () => Infinity)
  // when they died, in the order in which they did
  const deaths = lineage!.events.filter(({ kind: one }) => one === 'death')
  const { from } = moment
  if (since.dead < until.dead)
    bearOnWays(out, context, lineage!.dead, since.dead, until.dead, (k) => {
      const at = deaths[k]!.frame
      // who left as the substep began had gone its way before
      return at > from ? at : -Infinity
    })
  return out
}

type Bearing = Exclude<Amount, { burst: unknown } | { swept: unknown }>
interface Context {
  /** Of the population of the children. */
  name: string
  amount: Bearing
  values: Values
  descent: Descent
  seed: number
  /** Number of the phase in which parents bear; −1: any. */
  phase: number
  moment: Moment
}

/** Whether a parent bears now, by its number in the columns. */
function bearing({ descent, phase }: Context, parents: Columns): (i: number) => boolean {
  const phases = words(parents, 'phase')
  const generations = parents.at.generation ? words(parents, 'generation') : null
  return (i) => (phase < 0 || phases[i] === phase) && (generations?.[i] ?? 0) < descent.generations
}

/** What a child's random numbers follow from: whose it is, and which of its children. */
const keyOf = (seed: number, parent: number, number: number): number =>
  philox([parent, number, STREAM.offspring, 1], [seed, 0])[0]

/** Those born on the way, or as time goes by, of the parents of these numbers; `endOf` says at which frame each of them ended. */
function bearOnWays(
  out: Child[],
  context: Context,
  parents: Columns,
  first: number,
  until: number,
  endOf: (k: number) => number,
): void {
  const { amount, values, descent, seed, moment } = context
  const { from, to, h, rate } = moment
  if (h === 0 || to === from || 'event' in amount) return
  const state = floats(parents, descent.column)
  const keys = words(parents, randomKeys(parents))
  const age = floats(parents, 'age')
  const [bears, wayOfRow] = [bearing(context, parents), waysOf(parents)]
  const [start, end] = [amount.from ?? moment.first, amount.to ?? moment.shot.frames.last]
  for (let i = first; i < until; i++) {
    // it is born at a share of the substep, and goes on from there
    const span = Math.min(h, age[i]!)
    if (!(span > 0) || !bears(i)) continue
    const bornAt = 1 - span / h
    const shareAt = (frame: number): number =>
      Math.min(1, Math.max(0, ((frame - from) / (to - from) - bornAt) / (1 - bornAt)))
    const [a, b] = [shareAt(start), shareAt(Math.min(end, endOf(i)))]
    if (b <= a) continue
    const frameAt = (s: number): number => from + (bornAt + s * (1 - bornAt)) * (to - from)
    let way = 'spacing' in amount ? wayOfRow(i, span) : null
    const passed = way ? way.lengthAt(a) : 0
    const spacing = 'spacing' in amount ? valueAt(amount.spacing, (from + to) / 2) : 0
    const added = way
      ? (way.lengthAt(b) - passed) / spacing
      : integralOf((amount as Extract<Amount, { rate: unknown }>).rate, frameAt(a), frameAt(b)) / rate
    if (added === 0) continue
    if (state[i * 2]! <= -0.5) state[i * 2] = values.stagger * random(seed, keys[i]!, STREAM.offspring)
    const before = state[i * 2]!
    const owed = Math.floor(before + added + NEARLY)
    const given = Math.min(owed, Math.max(0, (amount.cap ?? Infinity) - state[i * 2 + 1]!))
    refuseFlood(out.length + given, context.name, descent)
    if (given > 0) way ??= wayOfRow(i, span)
    for (let n = 1; n <= given; n++) {
      const share = Math.min(1, Math.max(0, (n - before) / added))
      const s = 'spacing' in amount ? way!.shareAt(passed + (n - before) * spacing) : a + share * (b - a)
      const number = state[i * 2 + 1]! + n - 1
      out.push({
        parents,
        row: i,
        time: bornAt + s * (1 - bornAt),
        place: way!.at(s), // it is there where any are given
        velocity: way!.velocityAt(s),
        normal: null,
        number,
        key: keyOf(seed, keys[i]!, number),
      })
    }
    state[i * 2] = before + added - owed
    state[i * 2 + 1] = state[i * 2 + 1]! + given
  }
}

/** The ways of the particles of some columns within the substep. */
function waysOf(parents: Columns): (i: number, seconds: number) => Way {
  const [from, to] = [floats(parents, 'startPosition'), floats(parents, 'position')]
  const [startVelocity, endVelocity] = [floats(parents, 'startVelocity'), floats(parents, 'velocity')]
  const hits = parents.at.contactTime !== 0 && parents.at.contactNormal !== 0
  const [normals, times] = hits
    ? [floats(parents, 'contactNormal'), floats(parents, 'contactTime')]
    : [null, null]
  /** Seconds since it touched something; the column keeps what it had where it touched nothing. */
  const sinceContact = (i: number): number =>
    normals && vectorOf(normals, i).some((x) => x !== 0) ? times[i]! : 0
  return (i, seconds) =>
    wayOf({
      from: vectorOf(from, i),
      to: vectorOf(to, i),
      startVelocity: vectorOf(startVelocity, i),
      endVelocity: vectorOf(endVelocity, i),
      seconds,
      sinceContact: sinceContact(i),
    })
}

/** Those born as something happens to a parent. */
function bearAtEvent(out: Child[], context: Context, parents: PopulationState, event: ParticleEvent): void {
  const { amount, descent, seed, moment } = context
  if (!('event' in amount) || event.kind !== amount.event) return
  const { from, to, first, shot } = moment
  if (event.frame < (amount.from ?? first) || event.frame > (amount.to ?? shot.frames.last)) return
  const found = rowOf(parents, event)
  if (!found || !bearing(context, found.columns)(found.row)) return
  const { columns, row } = found
  const state = floats(columns, descent.column)
  const key = words(columns, randomKeys(columns))[row]!
  const heard = Math.max(0, state[row * 2]!)
  state[row * 2] = heard + 1
  if (randoms(seed, key, STREAM.offspring, heard + 2)[0] >= (amount.chance ?? 1)) return
  const done = state[row * 2 + 1]!
  const count = Math.min(amount.count, Math.max(0, (amount.cap ?? Infinity) - done))
  refuseFlood(out.length + count, context.name, descent)
  const time = to > from ? Math.min(1, Math.max(0, (event.frame - from) / (to - from))) : 0
  const normal = event.normal.some((x) => x !== 0) ? event.normal : null
  for (let n = 0; n < count; n++)
    out.push({
      parents: columns,
      row,
      time,
      place: event.place,
      velocity: vectorOf(floats(columns, 'velocity'), row),
      normal,
      number: done + n,
      key: keyOf(seed, key, done + n),
    })
  state[row * 2 + 1] = done + count
}

/** Where a particle stands in the columns of its population, or among the dead. */
function rowOf(
  { columns, lineage }: PopulationState,
  { particle }: ParticleEvent,
): { columns: Columns; row: number } | null {
  const ids = view(columns, 'id') as Uint32Array
  let [low, high] = [0, ids.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if (ids[middle]! < particle) low = middle + 1
    else high = middle
  }
  if (ids[low] === particle) return { columns, row: low }
  const row = (view(lineage!.dead, 'id') as Uint32Array).indexOf(particle)
  return row < 0 ? null : { columns: lineage!.dead, row }
}
