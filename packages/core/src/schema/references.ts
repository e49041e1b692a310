/** Which meshes and masks a shot names, and where. */
import { BIRTHS, CUES, GOALS, influenceKind, INFLUENCES, MASKS } from '../registry.ts'
import type { Parameters, ReferenceParameter } from '../document/parameters.ts'
import { derivedFrom } from '../document/derived.ts'
import type { Mask, Shot } from '../document/types.ts'

export interface Reference {
  path: string
  to: ReferenceParameter['to']
  id: string
}

/** The references of one entry of a kind. */
function* within(
  kinds: { kind: string; parameters: Parameters }[],
  entry: { kind: string; [parameter: string]: unknown },
  path: string,
): Generator<Reference> {
  const kind = kinds.find((one) => one.kind === entry.kind)
  for (const [name, parameter] of Object.entries(kind?.parameters ?? {})) {
    const value = entry[name]
    if (parameter.type === 'reference' && typeof value === 'string')
      yield { path: `${path}.${name}`, to: parameter.to, id: value }
    if (parameter.type === 'origin' && typeof value === 'object' && value !== null && 'mask' in value)
      yield { path: `${path}.${name}.mask`, to: 'mask', id: value.mask as string }
    if (parameter.type === 'amount' && typeof value === 'object' && value !== null && 'mask' in value)
      yield { path: `${path}.${name}.mask`, to: 'mask', id: value.mask as string }
  }
}

/** References of a mask. */
export const maskReferences = (mask: Mask, path = ''): Reference[] => [...within(MASKS, mask, path)]

/** All references of a shot; of phases, goals and attributes those within populations. */
export function* references(shot: Shot): Generator<Reference> {
  for (const [i, mesh] of shot.meshes.entries()) {
    const made = derivedFrom(mesh.source)
    if (made) yield { path: `meshes[${i}].source.${made.by}.mesh`, to: 'mesh', id: made.mesh }
    if (made?.mask !== undefined)
      yield { path: `meshes[${i}].source.${made.by}.density`, to: 'mask', id: made.mask }
    if (mesh.cut) yield { path: `meshes[${i}].cut.by`, to: 'mesh', id: mesh.cut.by }
    if (!mesh.eaten) continue
    yield { path: `meshes[${i}].eaten.mask`, to: 'mask', id: mesh.eaten.mask }
    if (mesh.eaten.crumbleMask !== undefined)
      yield { path: `meshes[${i}].eaten.crumbleMask`, to: 'mask', id: mesh.eaten.crumbleMask }
  }
  for (const [i, mask] of shot.masks.entries()) yield* within(MASKS, mask, `masks[${i}]`)
  for (const [i, { mesh }] of shot.combings.entries())
    yield { path: `combings[${i}].mesh`, to: 'mesh', id: mesh }
  for (const [i, { follow }] of shot.cameras.entries())
    if (follow !== undefined) yield { path: `cameras[${i}].follow`, to: 'mesh', id: follow }
  for (const [p, population] of shot.populations.entries()) {
    const path = `populations[${p}]`
    for (const [i, { birth }] of population.attributes.entries())
      if ('mask' in birth) yield { path: `${path}.attributes[${i}].birth.mask`, to: 'mask', id: birth.mask }
    if (population.look.colour.attribute !== undefined)
      yield { path: `${path}.look.colour.attribute`, to: 'attribute', id: population.look.colour.attribute }
    if (population.look.glow?.attribute !== undefined)
      yield { path: `${path}.look.glow.attribute`, to: 'attribute', id: population.look.glow.attribute }
    for (const [i, birth] of population.births.entries()) yield* within(BIRTHS, birth, `${path}.births[${i}]`)
    for (const [i, cue] of population.cues.entries()) yield* within(CUES, cue.when, `${path}.cues[${i}].when`)
    for (const [i, goal] of population.goals.entries()) yield* within(GOALS, goal, `${path}.goals[${i}]`)
    for (const [k, { mesh }] of (population.look.instances?.set ?? []).entries())
      yield { path: `${path}.look.instances.set[${k}].mesh`, to: 'mesh', id: mesh }
    for (const [i, influence] of population.influences.entries()) {
      const at = `${path}.influences[${i}]`
      yield* within(INFLUENCES, influence, at)
      for (const [r, { mesh, mask, goal, attribute }] of (influence.responses ?? []).entries()) {
        if (mesh !== undefined) yield { path: `${at}.responses[${r}].mesh`, to: 'mesh', id: mesh }
        if (goal !== undefined) yield { path: `${at}.responses[${r}].goal`, to: 'goal', id: goal }
        if (mask !== undefined) yield { path: `${at}.responses[${r}].mask`, to: 'mask', id: mask }
        if (attribute !== undefined)
          yield { path: `${at}.responses[${r}].attribute`, to: 'attribute', id: attribute }
      }
    }
  }
}

/** Ids of the meshes that the computation reads. What a mesh was made of is not asked any more, but carries it. */
export function meshesInUse(shot: Shot): Set<string> {
  const read = [...references(shot)].filter(
    ({ to, path }) =>
      to === 'mesh' && !path.includes('.look.') && !path.includes('.source.') && !path.startsWith('cameras'),
  )
  const used = new Set(read.map(({ id }) => id))
  for (const mesh of shot.meshes) if (mesh.eaten || mesh.cut) used.add(mesh.id)
  // rays that every mesh keeps off
  if (shot.populations.some(({ births }) => births.some(({ laid, blocked }) => laid === 'ray' && blocked === 'all'))) for (const { id } of shot.meshes) used.add(id) // prettier-ignore
  // what they are drawn as is what they are as bodies
  for (const { influences, look } of shot.populations)
    if (
      look.draw === 'instances' &&
      influences.some(({ kind }) => influenceKind(kind).constraint?.pace === 'bodies')
    )
      for (const { mesh } of look.instances?.set ?? []) used.add(mesh)
  return used
}
