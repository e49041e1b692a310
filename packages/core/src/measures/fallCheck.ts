/** How particles fall: those that keep coming and have nothing to fall on, and those that stand on one another like bricks. */
import { volume } from '../births/volume.ts'
import type { Population, Shot } from '../document/types.ts'
import type { MeshFacts } from '../geometry/mesh.ts'
import { floor } from '../influences/floor.ts'
import { link } from '../influences/link.ts'
import { selfCollision } from '../influences/selfCollision.ts'
import { gravity } from '../influences/gravity.ts'
import { influenceKind } from '../registry.ts'
import { completeInfluence } from '../schema/complete.ts'
import { placeAt } from '../scene/body.ts'
import { standing } from '../document/derived.ts'
import { DIES } from '../document/types.ts'
import { transform, type Vector } from '../math/vector.ts'
import { freshId } from '../document/names.ts'
import type { Check } from './check.ts'
import { acting, mend } from './words.ts'

/** Influences of these may hold what falls, or lead it somewhere. */
const HOLDING = new Set(['contact', 'goals', 'constraints'])

export function* checkFall(shot: Shot, index: number, facts: Map<string, MeshFacts>): Generator<Check> {
  const population = shot.populations[index]!
  const { id, name, births, cues, influences, particle, phases } = population
  const keepsComing = births.some(({ amount, muted }) => !muted && 'rate' in amount)
  const ends = particle.lifespan !== null || cues.some(({ to }) => to === DIES)
  const falls = acting(population, gravity).length > 0
  const isHeld = influences.some(({ kind, muted }) => !muted && HOLDING.has(influenceKind(kind).family))
  if (!keepsComing || ends || !falls || isHeld) return
  const height = lowest(shot, facts)
  const under = completeInfluence(
    {
      id: freshId(floor.kind, influences.map((one) => one.id)), // prettier-ignore
      kind: floor.kind,
      weights: Object.fromEntries(phases.map((phase) => [phase, 1])),
      height,
    },
    phases,
  )
  yield {
    id: `${id}:falls`,
    title: `${name} fall for ever`,
    text: 'They have weight, nothing to land on and no end of life: there are more of them to compute in every frame. Give them a floor, a mesh to collide with, or a lifespan.',
    mend: mend(`A floor at ${height} m`, ['populations', index, 'influences'], [...influences, under]),
  }
}

/** Balls that stand straight above one another do not slide apart, for they do not roll. */
export function* checkColumns(population: Population, path: (string | number)[]): Generator<Check> {
  const has = (kind: { kind: string }): boolean => acting(population, kind).length > 0
  if (!has(gravity) || !has(selfCollision) || has(link)) return
  const { id, name, births } = population
  for (const [n, birth] of births.entries()) {
    if (birth.muted || birth.kind !== volume.kind || birth.fill !== 'grid') continue
    yield {
      id: `${id}:${birth.id}:columns`,
      title: `${name} stand straight above one another`,
      text: 'Balls on a grid stay as columns, unless links hold them or they are pushed. Packed like balls they run out to a heap.',
      mend: mend('Pack them', [...path, 'births', n, 'fill'], 'packed'),
    }
  }
}

/** The lowest point of all meshes as they stand at first, metres; 0 where none is known. */
function lowest(shot: Shot, facts: Map<string, MeshFacts>): number {
  const heights = shot.meshes.flatMap((mesh) => {
    const found = facts.get(mesh.id)
    if (!found) return []
    const to = placeAt(standing(shot, mesh).place, shot.frames.first)
    const corner = (k: number): Vector =>
      [0, 1, 2].map((axis) => [found.low, found.high][(k >> axis) & 1]![axis]!) as Vector
    return Array.from({ length: 8 }, (_, k) => transform(to, corner(k))[1])
  })
  const low = heights.length > 0 ? Math.min(...heights) : 0
  const size = Math.max(...heights, low) - low || 1
  const step = 10 ** (Math.floor(Math.log10(size)) - 2)
  return Number((Math.floor(low / step) * step).toPrecision(12)) || 0
}
