/** Documents without something that others need: what would point at nothing goes along. */
import {
  BIRTHS,
  INFLUENCES,
  references,
  type Birth,
  type OwnAttribute,
  type Population,
  type Reference,
  type Shot,
} from '@tangle/core'

/** Ids of the goals or attributes of the population that a path leads into. */
function ownAt(shot: Shot, path: string, of: 'goals' | 'attributes'): Set<string> {
  const index = Number(/^populations\[(\d+)\]/.exec(path)?.[1])
  return new Set(shot.populations[index]?.[of].map(({ id }) => id))
}

/** Whether an influence or a birth can do without what it names there; a cue without it would mean another thing. */
function isOptional(population: Population, [list, index, key]: string[]): boolean {
  if (list !== 'influences' && list !== 'births') return false
  const kinds = { influences: INFLUENCES, births: BIRTHS }[list]
  const entry = population[list][Number(index)]
  const parameter = kinds.find((one) => one.kind === entry?.kind)?.parameters[key!]
  return parameter?.type === 'reference' && parameter.absent !== undefined
}

/** Takes meshes that are gone out of the instances; without any left, particles are spheres. */
function withoutInstance({ look }: Population, known: Set<string>): void {
  const left = look.instances!.set.filter(({ mesh }) => known.has(mesh))
  if (left.length > 0) look.instances!.set = left
  else {
    look.instances = null
    if (look.draw === 'instances') look.draw = 'spheres'
  }
}

/** An attribute whose mask is gone is born with what the mask had at 1. */
const withoutMaskBirth = (one: OwnAttribute): OwnAttribute =>
  'mask' in one.birth ? { ...one, birth: { mean: one.birth.high, spread: 0 } } : one

/** Takes out what names something that is not there, until nothing does. */
function pruned(shot: Shot): Shot {
  const known = {
    mesh: new Set(shot.meshes.map((one) => one.id)),
    mask: new Set(shot.masks.map((one) => one.id)),
    combing: new Set(shot.combings.map((one) => one.id)),
    population: new Set(shot.populations.map((one) => one.id)),
  }
  const isKnown = ({ to, id, path }: Reference): boolean => {
    // phases are renamed and taken out with all that names them
    if (to === 'phase' || to === 'parentPhase') return true
    return to === 'goal' || to === 'attribute' ? ownAt(shot, path, `${to}s`).has(id) : known[to].has(id)
  }
  const broken = [...references(shot)].filter((one) => !isKnown(one))
  if (broken.length === 0) return shot
  const next = structuredClone(shot)
  const gone = {
    masks: new Set<number>(),
    combings: new Set<number>(),
    uneaten: new Set<number>(),
    uncut: new Set<number>(),
    meshes: new Set<number>(),
  }
  const lists: Record<string, Set<number>> = {}
  for (const { path } of broken) {
    const [list, index, ...rest] = path.split(/[.[\]]+/).filter(Boolean)
    const n = Number(index)
    if (list === 'masks' || list === 'combings') gone[list].add(n)
    else if (list === 'cameras') delete next.cameras[n]!.follow
    else if (list === 'meshes') {
      const { source, eaten } = next.meshes[n]!
      if (rest.at(-1) === 'crumbleMask') delete eaten!.crumbleMask
      else if (rest[0] === 'eaten') gone.uneaten.add(n)
      else if (rest[0] === 'cut') gone.uncut.add(n)
      else if (rest.at(-1) === 'density' && 'fracture' in source) delete source.fracture.density
      // what is made of a mesh goes with it
      else gone.meshes.add(n)
    } else if (rest[0] === 'look') {
      const { look } = next.populations[n]!
      if (rest[1] === 'glow') delete look.glow!.attribute
      else if (rest[1] === 'colour') look.colour = { from: 'age', range: [0, 1], ramp: look.colour.ramp }
      else if (look.instances) withoutInstance(next.populations[n]!, known.mesh)
    } else if (rest[0] === 'attributes')
      next.populations[n]!.attributes[Number(rest[1])] = withoutMaskBirth(
        next.populations[n]!.attributes[Number(rest[1])]!,
      )
    else if (rest[2] === 'responses')
      (lists[`${n} ${rest[0]} ${rest[1]} responses`] ??= new Set()).add(Number(rest[3]))
    else if (isOptional(shot.populations[n]!, rest))
      delete next.populations[n]![rest[0] as 'births'][Number(rest[1])]![rest[2]!]
    else (lists[`${n} ${rest[0]}`] ??= new Set()).add(Number(rest[1]))
  }
  const without = <T>(all: T[], out: Set<number> | undefined): T[] => all.filter((_, i) => !out?.has(i))
  next.masks = without(next.masks, gone.masks)
  next.combings = without(next.combings, gone.combings)
  next.meshes.forEach((mesh, i) => gone.uneaten.has(i) && (mesh.eaten = null))
  next.meshes.forEach((mesh, i) => gone.uncut.has(i) && (mesh.cut = null))
  next.meshes = without(next.meshes, gone.meshes)
  next.populations.forEach((population, p) => {
    population.influences.forEach((influence, i) => {
      const out = lists[`${p} influences ${i} responses`]
      if (out) influence.responses = without(influence.responses ?? [], out)
    })
    population.goals = without(population.goals, lists[`${p} goals`])
    population.births = without(population.births, lists[`${p} births`])
    population.cues = without(population.cues, lists[`${p} cues`])
    population.influences = without(population.influences, lists[`${p} influences`])
  })
  return pruned(next)
}

export const withoutMesh = (shot: Shot, id: string): Shot =>
  pruned({ ...shot, meshes: shot.meshes.filter((mesh) => mesh.id !== id) })
export const withoutMask = (shot: Shot, id: string): Shot =>
  pruned({ ...shot, masks: shot.masks.filter((mask) => mask.id !== id) })

export const withoutCombing = (shot: Shot, id: string): Shot =>
  pruned({ ...shot, combings: shot.combings.filter((one) => one.id !== id) })

export const withoutPopulation = (shot: Shot, id: string): Shot =>
  pruned({ ...shot, populations: shot.populations.filter((one) => one.id !== id) })
export const withoutGoal = (shot: Shot, index: number, id: string): Shot =>
  pruned(changed(shot, index, (one) => ({ ...one, goals: one.goals.filter((goal) => goal.id !== id) })))

export const withoutAttribute = (shot: Shot, index: number, id: string): Shot =>
  pruned(
    changed(shot, index, (one) => ({
      ...one,
      attributes: one.attributes.filter((attribute) => attribute.id !== id),
      keep: one.keep?.filter((kept) => kept !== id) ?? null,
    })),
  )

const changed = (shot: Shot, index: number, change: (population: Population) => Population): Shot => ({
  ...shot,
  populations: shot.populations.map((one, i) => (i === index ? change(one) : one)),
})

export function withPhaseRenamed(shot: Shot, index: number, from: string, to: string): Shot {
  if (shot.populations[index]?.phases.includes(to)) return shot
  const name = (phase: string): string => (phase === from ? to : phase)
  return changed(withParentPhase(shot, index, name), index, (population) => ({
    ...population,
    phases: population.phases.map(name),
    births: population.births.map((birth) => ({ ...birth, into: name(birth.into) })),
    cues: population.cues.map((cue) => ({ ...cue, from: name(cue.from), to: name(cue.to) })),
    influences: population.influences.map((influence) => ({
      ...influence,
      weights: Object.fromEntries(Object.entries(influence.weights).map(([phase, w]) => [name(phase), w])),
    })),
  }))
}

/** The same with other names for the phases in which particles of a population bear; undefined: in all. */
function withParentPhase(shot: Shot, index: number, name: (phase: string) => string | undefined): Shot {
  const { id } = shot.populations[index]!
  const renamed = (birth: Birth): Birth => {
    if (birth.from !== id || birth.parentPhase === undefined) return birth
    const { parentPhase, ...rest } = birth
    const next = name(parentPhase as string)
    return next === undefined ? rest : { ...rest, parentPhase: next }
  }
  return {
    ...shot,
    populations: shot.populations.map((one) => ({ ...one, births: one.births.map(renamed) })),
  }
}

export function withoutPhase(shot: Shot, index: number, phase: string): Shot {
  const kept = withParentPhase(shot, index, (one) => (one === phase ? undefined : one))
  return changed(kept, index, (population) => {
    const phases = population.phases.filter((one) => one !== phase)
    if (phases.length === 0) return population
    return {
      ...population,
      phases,
      births: population.births.map((birth) =>
        birth.into === phase ? { ...birth, into: phases[0]! } : birth,
      ),
      cues: population.cues.filter((cue) => cue.from !== phase && cue.to !== phase),
      influences: population.influences.map((influence) => ({
        ...influence,
        weights: Object.fromEntries(Object.entries(influence.weights).filter(([one]) => one !== phase)),
      })),
    }
  })
}
