/** Checks that concern goals and swarms. */
import type { MeshFacts } from '../geometry/mesh.ts'
import { surface } from '../goals/surface.ts'
import { vertices } from '../goals/vertices.ts'
import { arrive } from '../influences/arrive.ts'
import { avoid } from '../influences/avoid.ts'
import { flock } from '../influences/flock.ts'
import { INFLUENCES } from '../influences/index.ts'
import { march } from '../influences/march.ts'
import { mutual } from '../influences/mutual.ts'
import { seek } from '../influences/seek.ts'
import { valueAt, vectorAt } from '../document/keys.ts'
import type { Keyed } from '../document/parameters.ts'
import type { Goal, Influence, Population, Shot } from '../document/types.ts'
import type { Check } from './check.ts'
import type { GoalMeasures, PopulationMeasures } from './measures.ts'
import { mend, percent, round } from './words.ts'

type Path = (string | number)[]
type Facts = Map<string, MeshFacts>

const nameOf = (influence: Influence): string =>
  influence.name ?? INFLUENCES.find((one) => one.kind === influence.kind)!.label
/** Phases in which both act. */
const together = (a: Influence, b: Influence): string[] =>
  Object.keys(a.weights).filter((phase) => a.weights[phase] && b.weights[phase])

/** What the document says. */
export function* checkGoals(population: Population, index: number, facts: Facts): Generator<Check> {
  const path = ['populations', index]
  const acting = population.influences.filter((one) => !one.muted)
  const at = (influence: Influence): Path => [...path, 'influences', population.influences.indexOf(influence)]
  for (const [g, goal] of population.goals.entries())
    yield* checkPlaces(population, goal, [...path, 'goals', g], facts)
  yield* checkTorn(population, acting, at)
  for (const one of acting) {
    const id = `${population.id}:${one.id}`
    if (one.kind === march.kind && one.along !== 'direction' && facts.get(one.mesh as string)?.uv === null) {
      yield {
        id: `${id}:uv`,
        title: `${nameOf(one)} has no U and V to run along`,
        text: 'The mesh has no texture coordinates. Let them run along a direction laid onto it.',
        mend: mend('Run along a direction', [...at(one), 'along'], 'direction'),
      }
    }
    if (one.kind === mutual.kind && valueAt(one.near as Keyed, 0) >= valueAt(one.far as Keyed, 0)) {
      const far = round(2.5 * valueAt(one.near as Keyed, 0))
      yield {
        id: `${id}:scatter`,
        title: `${population.name} scatter`,
        text: `Their repulsion reaches as far as their attraction. Let them attract within ${far} m.`,
        mend: mend(`Attract within ${far} m`, [...at(one), 'far'], far),
      }
    }
    if (one.kind === avoid.kind && valueAt(one.ahead as Keyed, 0) < 1 && valueAt(one.strength, 0) > 3) {
      yield {
        id: `${id}:zigzag`,
        title: `${population.name} may zigzag`,
        text: 'They avoid hard but look ahead for less than a second, so they see one another late.',
        mend: mend('Look 3 s ahead', [...at(one), 'ahead'], 3),
      }
    }
  }
}

function* checkPlaces(population: Population, goal: Goal, path: Path, facts: Facts): Generator<Check> {
  const mesh = facts.get(goal.mesh as string)
  const id = `${population.id}:${goal.id}`
  if (mesh && mesh.triangles === 0 && goal.kind !== vertices.kind) {
    yield {
      id: `${id}:points`,
      title: `${goal.name} has no surface`,
      text: 'It is a set of points. Let them go to the points themselves.',
      mend: mend('Go to the points', [...path, 'kind'], vertices.kind),
    }
  }
  const bornOn = population.births.flatMap(({ mesh }) => facts.get(mesh ?? '') ?? [])
  if (goal.pairing === 'uv' && mesh && (mesh.uv === null || bornOn.every((one) => one.uv === null))) {
    yield {
      id: `${id}:uv`,
      title: `No UV to pair ${population.name} by`,
      text: `${mesh.uv === null ? goal.name : 'The mesh that they are born on'} has no texture coordinates.`,
      mend: mend('Pair by least travel', [...path, 'pairing'], 'least'),
    }
  }
  const born = population.births.reduce(
    (sum, { amount }) => sum + ('burst' in amount && amount.burst !== 'all' ? amount.burst : 0),
    0,
  )
  if (mesh && goal.kind === vertices.kind && goal.spare === 'none' && born > mesh.vertices) {
    yield {
      id: `${id}:few`,
      title: `${(born - mesh.vertices).toLocaleString('en').replaceAll(',', ' ')} of ${population.name} have no place`,
      text: `${goal.name} has ${mesh.vertices} places for ${born}.`,
      mend: mend('Share the places', [...path, 'spare'], 'share'),
    }
  }
}

/** Two goals that pull equally, all the time: particles stop half-way. */
function* checkTorn(
  population: Population,
  acting: Influence[],
  at: (influence: Influence) => Path,
): Generator<Check> {
  const leading = acting.filter(
    (one) => [seek.kind, arrive.kind].includes(one.kind) && typeof one.strength === 'number',
  )
  for (const [k, a] of leading.entries()) {
    for (const b of leading.slice(k + 1)) {
      const phase = together(a, b).find((one) => {
        const [x, y] = [a.weights[one]! * valueAt(a.strength, 0), b.weights[one]! * valueAt(b.strength, 0)]
        return a.goal !== b.goal && Math.abs(x - y) < 0.1 * Math.max(x, y)
      })
      if (phase === undefined) continue
      const goal = population.goals.find((one) => one.id === b.goal)
      yield {
        id: `${population.id}:torn:${a.id}:${b.id}`,
        title: `${population.name} are torn between two goals`,
        text: `In ${phase}, ${nameOf(a)} and ${nameOf(b)} pull as hard as one another: they end half-way. Let one lead, or key their strengths.`,
        mend: mend(
          `Let ${goal?.name ?? b.id} lead`,
          [...at(a), 'weights', phase],
          round(a.weights[phase]! / 10),
        ),
      }
    }
  }
}

/** What the measures of a frame say. */
export function* checkSwarm(
  shot: Shot,
  population: Population,
  measured: PopulationMeasures,
  frame: number,
  facts: Facts,
): Generator<Check> {
  const index = shot.populations.indexOf(population)
  for (const goal of measured.goals) {
    const written = population.goals.find((one) => one.id === goal.id)
    if (!written) continue
    if (frame >= shot.frames.last) yield* checkArrived(shot, population, index, written, goal, measured)
    yield* checkLanding(population, index, written, goal, facts, shot)
  }
  const { overlaps } = measured
  const i = population.influences.findIndex((one) => one.kind === avoid.kind && !one.muted)
  if (overlaps && i >= 0 && overlaps.touching > 0.02 * measured.alive) {
    const aside = (population.influences[i]!.aside ?? 1) as number
    yield {
      id: `${population.id}:overlap`,
      title: `${percent(overlaps.touching / measured.alive)} of ${population.name} overlap`,
      text: `${overlaps.pairs} pairs, the worst by ${round(overlaps.worst * 1000)} mm: there is too little room. ${aside < 1 ? 'Let them step aside wholly.' : 'Lower their number, or start them farther apart.'}`,
      ...(aside < 1 ? { mend: mend('Step aside', ['populations', index, 'influences', i, 'aside'], 1) } : {}),
    }
  }
}

function* checkArrived(
  shot: Shot,
  population: Population,
  index: number,
  goal: Goal,
  { paired, arrived, high }: GoalMeasures,
  { speed }: PopulationMeasures,
): Generator<Check> {
  const late = paired === 0 ? 0 : 1 - arrived / paired
  if (late < 0.05) return
  const id = `${population.id}:${goal.id}:late`
  const title = `${percent(late)} of ${population.name} have not arrived at ${goal.name} by the last frame`
  const leading = population.influences.filter((one) => one.goal === goal.id && !one.muted)
  const seeking = leading.find((one) => one.kind === seek.kind)
  if (seeking && leading.every((one) => one.kind === seek.kind)) {
    const path = ['populations', index, 'influences', population.influences.indexOf(seeking)]
    const { kind: _, strength: __, ...rest } = seeking
    const arriving = { ...rest, kind: arrive.kind, strength: 1, slowing: 0.5 }
    yield {
      id,
      title,
      text: 'Seek goes on past its goal, and circles it. Arrive slows down and stays.',
      mend: mend('Arrive instead', path, arriving),
    }
    return
  }
  // the slowest tenth still has `high` to go, at the speed of the faster ones now
  const frames = Math.ceil(((high / Math.max(speed.high, 1e-9)) * shot.frames.rate) / 10) * 10
  if (frames > 2000) {
    yield {
      id,
      title,
      text: `They have come to rest ${round(high)} m away. Raise a strength, or count as arrived what is farther.`,
    }
    return
  }
  yield {
    id,
    title,
    text: `It takes about ${frames} more frames at this speed.`,
    mend: mend(`${frames} frames more`, ['frames', 'last'], shot.frames.last + frames),
  }
}

/** A separation radius that leaves no room for all on the goal's surface. */
function* checkLanding(
  population: Population,
  index: number,
  goal: Goal,
  { paired }: GoalMeasures,
  facts: Facts,
  shot: Shot,
): Generator<Check> {
  const mesh = shot.meshes.find((one) => one.id === goal.mesh)
  const measured = facts.get(goal.mesh as string)
  if (!mesh || !measured || goal.kind !== surface.kind || paired === 0) return
  const scale = vectorAt(mesh.place.scale, shot.frames.first)
  const area = measured.area * Math.abs(scale[0] * scale[1] * scale[2]) ** (2 / 3)
  // the distance of neighbours in the closest packing of so many on that area
  const spacing = Math.sqrt((2 * area) / (Math.sqrt(3) * paired))
  const leading = population.influences.filter((one) => one.goal === goal.id && !one.muted)
  for (const swarm of population.influences) {
    if (swarm.kind !== flock.kind || swarm.muted || !leading.some((one) => together(one, swarm).length > 0))
      continue
    const radius = valueAt(swarm.separationRadius as Keyed, shot.frames.first)
    if (radius <= spacing || valueAt(swarm.separation as Keyed, shot.frames.last) === 0) continue
    const fitting = round(spacing * 0.8)
    const path = ['populations', index, 'influences', population.influences.indexOf(swarm)]
    yield {
      id: `${population.id}:${goal.id}:landing`,
      title: `${population.name} have no room to land on ${goal.name}`,
      text: `${paired} of them lie ${round(spacing)} m apart there, but keep apart within ${round(radius)} m, so they can’t land.`,
      mend: mend(`Apart within ${fitting} m`, [...path, 'separationRadius'], fitting),
    }
  }
}
