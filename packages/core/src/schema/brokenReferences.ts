import type { AmountParameter } from '../document/parameters.ts'
import { surface as surfaceGoal } from '../goals/surface.ts'
import { birthKind, INFLUENCES, RESPONSES } from '../registry.ts'
import { MOST_COLLIDERS } from '../state/attributes.ts'
import { MESH_CONTACTS } from '../constraints/meshContacts.ts'
import type { Problem } from '../document/problem.ts'
import { rootOf } from '../document/derived.ts'
import { maskReferences, references, type Reference } from './references.ts'
import { KEEPABLE } from './requiredAttributes.ts'
import { DIES, type Birth, type Population, type Shot } from '../document/types.ts'

/** Names that point at nothing, ids used twice, masks that need themselves. */
export function brokenReferences(shot: Shot): Problem[] {
  return [
    ...usedTwice('meshes', shot.meshes),
    ...usedTwice('masks', shot.masks),
    ...usedTwice('combings', shot.combings),
    ...usedTwice('cameras', shot.cameras),
    ...usedTwice('populations', shot.populations),
    ...shot.meshes.flatMap((mesh, i) => usedTwice(`meshes[${i}].deform`, mesh.deform)),
    ...missing(shot),
    ...circles(shot),
    ...derivedCircles(shot),
    ...brokenCuts(shot),
    ...brokenParents(shot),
    ...shot.populations.flatMap((population, n) => [...brokenIn(population, `populations[${n}]`)]),
  ]
}

function usedTwice(path: string, entries: { id: string }[]): Problem[] {
  const ids = entries.map((one) => one.id)
  return ids.flatMap((one, i) =>
    ids.indexOf(one) < i
      ? [{ path: `${path}[${i}].id`, message: `"${one}" is used twice: give it an id of its own` }]
      : [],
  )
}

function missing(shot: Shot): Problem[] {
  const known = {
    mesh: new Set(shot.meshes.map((m) => m.id)),
    mask: new Set(shot.masks.map((m) => m.id)),
    combing: new Set(shot.combings.map((c) => c.id)),
    population: new Set(shot.populations.map((p) => p.id)),
  }
  return [...references(shot)].flatMap(({ path, to, id }) =>
    !(to in known) || known[to as keyof typeof known].has(id)
      ? []
      : [{ path, message: `there is no ${to} "${id}": add it or name another` }],
  )
}

/** A mask may not need itself, by however many others. */
function circles(shot: Shot): Problem[] {
  const needs = new Map(
    shot.masks.map((mask) => [
      mask.id,
      maskReferences(mask)
        .filter((r) => r.to === 'mask')
        .map((r) => r.id),
    ]),
  )
  return shot.masks.flatMap(({ id }, i) => {
    const seen = new Set<string>()
    const waiting = [...(needs.get(id) ?? [])]
    while (waiting.length > 0) {
      const next = waiting.pop()!
      if (next === id)
        return [{ path: `masks[${i}]`, message: `"${id}" needs itself: let it read another mask` }]
      if (seen.has(next)) continue
      seen.add(next)
      waiting.push(...(needs.get(next) ?? []))
    }
    return []
  })
}

/** A mesh may not be made of itself, by however many others. */
function derivedCircles(shot: Shot): Problem[] {
  return shot.meshes.flatMap((mesh, i) =>
    rootOf(shot, mesh)
      ? []
      : [
          {
            path: `meshes[${i}].source`,
            message: `"${mesh.id}" is made of itself: let it be of another mesh`,
          },
        ],
  )
}

/** Meshes that can't be cut as they are to be. */
const brokenCuts = ({ meshes }: Shot): Problem[] =>
  meshes.flatMap(({ id, cut, eaten, source }, i) => {
    const says = (message: string): Problem[] => [{ path: `meshes[${i}].cut`, message }]
    if (!cut) return []
    if (cut.by === id) return says('is by itself: let another mesh cut it')
    if (eaten) return says('stands beside eaten: let either a mask or a mesh take of it')
    if ('fracture' in source) return says('is of a broken mesh: cut the mesh that it is made of')
    return []
  })

/** What a population names, as if it were the only one. */
const referencesIn = (population: Population): Reference[] => [
  ...references({ meshes: [], masks: [], combings: [], cameras: [], populations: [population] } as unknown as Shot), // prettier-ignore
]

/** Attributes of its own that something names, and what is to be kept. */
function* brokenAttributes(population: Population, path: string): Generator<Problem> {
  const known = new Set(population.attributes.map(({ id }) => id))
  const named = referencesIn(population)
  for (const { path: at, to, id } of named) {
    if (to !== 'attribute' || known.has(id)) continue
    const message = `there is no attribute "${id}": add it to the population or name another`
    yield { path: at.replace(/^populations\[0\]/, path), message }
  }
  for (const [k, one] of (population.keep ?? []).entries()) {
    if (KEEPABLE.includes(one) || known.has(one)) continue
    const message = `must be one of ${[...KEEPABLE, ...known].join(', ')}`
    yield { path: `${path}.keep[${k}]`, message }
  }
  if (population.look.colour.from === 'attribute' && population.look.colour.attribute === undefined)
    yield { path: `${path}.look.colour.attribute`, message: 'is missing: the attribute that colours them' }
}

/** Goals that influences, cues and responses name, and goals that can't be. */
function* brokenGoals(population: Population, path: string): Generator<Problem> {
  const known = new Set(population.goals.map((goal) => goal.id))
  const named = referencesIn(population)
  for (const { path: at, to, id } of named) {
    if (to !== 'goal' || known.has(id)) continue
    const where = at.replace(/^populations\[0\]/, path)
    yield { path: where, message: `there is no goal "${id}": add it to the population or name another` }
  }
  for (const [g, goal] of population.goals.entries()) {
    const at = `${path}.goals[${g}]`
    if (goal.pairing === 'uv' && goal.kind !== surfaceGoal.kind)
      yield { path: `${at}.pairing`, message: 'only places on a surface have UV: choose another pairing' }
    if (goal.population === population.id)
      yield { path: `${at}.population`, message: 'leads to itself: name another population' }
  }
}

/** Amounts of one sort of birth that another can't have. */
function* brokenAmount({ kind, amount }: Birth, path: string): Generator<Problem> {
  const { sweeps, perParent } = birthKind(kind).parameters.amount as AmountParameter
  const says = (message: string): Problem => ({ path: `${path}.amount`, message })
  if ('swept' in amount && !sweeps)
    yield says('only births on the surface can be swept: use a burst or a rate')
  else if ('burst' in amount && perParent)
    yield says('particles bear by a spacing in metres, a rate, or an event and a count: not in a burst')
  if (('spacing' in amount || 'event' in amount) && !perParent)
    yield says('only births from particles follow a way or events: use a burst or a rate')
}

/** Phases of parents, which are those of another population. */
const brokenParents = ({ populations }: Shot): Problem[] =>
  populations.flatMap(({ births }, p) =>
    births.flatMap(({ from, parentPhase }, b) => {
      const parents = populations.find(({ id }) => id === from)
      if (!parents || parentPhase === undefined || parents.phases.includes(parentPhase as string)) return []
      const message = `there is no phase "${parentPhase as string}" of ${parents.name}: its phases are ${parents.phases.join(', ')}`
      return [{ path: `populations[${p}].births[${b}].parentPhase`, message }]
    }),
  )

function* brokenIn(population: Population, path: string): Generator<Problem> {
  yield* usedTwice(`${path}.births`, population.births)
  yield* usedTwice(`${path}.cues`, population.cues)
  yield* usedTwice(`${path}.influences`, population.influences)
  yield* usedTwice(`${path}.goals`, population.goals)
  yield* brokenGoals(population, path)
  yield* usedTwice(`${path}.attributes`, population.attributes)
  yield* brokenAttributes(population, path)
  const phases = new Set(population.phases)
  if (phases.size < population.phases.length) yield { path: `${path}.phases`, message: 'names a phase twice' }
  if (phases.has(DIES))
    yield { path: `${path}.phases`, message: `"${DIES}" is what cues lead to at the end: name it otherwise` }
  const unknown = function* (where: string, phase: string): Generator<Problem> {
    if (phases.has(phase)) return
    const message = `there is no phase "${phase}": the phases are ${population.phases.join(', ')}`
    yield { path: where, message }
  }
  for (const [b, birth] of population.births.entries()) {
    const at = `${path}.births[${b}]`
    yield* unknown(`${at}.into`, birth.into)
    yield* brokenAmount(birth, at)
  }
  for (const [c, cue] of population.cues.entries()) {
    yield* unknown(`${path}.cues[${c}].from`, cue.from)
    if (cue.to !== DIES) yield* unknown(`${path}.cues[${c}].to`, cue.to)
    if (cue.to === cue.from)
      yield { path: `${path}.cues[${c}].to`, message: 'leads back to the phase that it leaves' }
  }
  if (population.look.draw === 'instances' && !population.look.instances)
    yield { path: `${path}.look.instances`, message: 'is missing: name the meshes that they are drawn as' }
  const solid = population.influences.filter(
    (one) => INFLUENCES.find((k) => k.kind === one.kind)?.constraint?.name === MESH_CONTACTS.name,
  )
  if (solid.length > MOST_COLLIDERS)
    yield {
      path: `${path}.influences`,
      message: `has ${solid.length} meshes and planes to collide with, of at most ${MOST_COLLIDERS}: join meshes to one`,
    }
  for (const [i, influence] of population.influences.entries()) {
    const at = `${path}.influences[${i}]`
    for (const phase of Object.keys(influence.weights)) yield* unknown(`${at}.weights.${phase}`, phase)
    const kind = INFLUENCES.find((one) => one.kind === influence.kind)
    for (const [r, response] of (influence.responses ?? []).entries()) {
      const parameter = kind?.parameters[response.to]
      if (parameter?.type !== 'number' || !parameter.responsive) {
        const able = Object.entries(kind?.parameters ?? {})
          .filter(([, p]) => p.type === 'number' && p.responsive)
          .map(([name]) => name)
        yield {
          path: `${at}.responses[${r}].to`,
          message: `"${response.to}" takes no responses: those that do are ${able.join(', ')}`,
        }
      }
      const needs = RESPONSES.find(({ from }) => from === response.from)?.needs
      if (needs && response[needs] === undefined)
        yield { path: `${at}.responses[${r}].${needs}`, message: `is missing: the ${needs} that it reads` }
    }
  }
}
