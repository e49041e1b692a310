/** What is measured of liquids, and what that says: whether they are held, and whether they keep their volume. */
import { fill } from '../births/fill.ts'
import { particles } from '../births/particles.ts'
import type { Population, Shot } from '../document/types.ts'
import { collide } from '../influences/collide.ts'
import { floor } from '../influences/floor.ts'
import { liquid } from '../influences/liquid.ts'
import { completeInfluence } from '../schema/complete.ts'
import { qualityOf } from '../schema/quality.ts'
import type { PopulationState } from '../simulation/world.ts'
import { floats } from '../state/columns.ts'
import type { Check } from './check.ts'
import { acting, mend, mendQuality, percent } from './words.ts'

export interface LiquidMeasures {
  /** m³, of all particles: each fills a cell as wide as it is. */
  volume: number
  /** Height of its surface: 98 % of it are below, metres. */
  level: number
  /** How much denser than at rest: mean, and the densest but for a hundredth. */
  compression: number
  high: number
}

/** Null where it is no liquid, or empty. */
export function measureLiquid({ isLiquid, columns }: PopulationState): LiquidMeasures | null {
  if (!isLiquid || columns.count === 0) return null
  const [x, r, c] = [floats(columns, 'position'), floats(columns, 'radius'), floats(columns, 'compression')]
  const heights = new Float32Array(columns.count)
  let [volume, sum] = [0, 0]
  for (let i = 0; i < columns.count; i++) {
    heights[i] = x[i * 3 + 1]!
    volume += 8 * r[i]! ** 3
    sum += Math.max(0, c[i]!)
  }
  const at = (share: number): number => Math.floor(share * (columns.count - 1))
  return {
    volume,
    level: heights.sort()[at(0.98)]! + r[0]!,
    compression: sum / columns.count,
    high: Math.max(0, c.slice().sort()[at(0.99)]!),
  }
}

/** What can be told from the document. */
export function* checkLiquid(
  { meshes, quality, frames }: Shot,
  population: Population,
  index: number,
): Generator<Check> {
  if (acting(population, liquid).length === 0) return
  const { id, name, influences, births, phases } = population
  const solid = acting(population, collide)
  for (const birth of births) {
    if (birth.kind !== fill.kind || birth.muted) continue
    if (!('burst' in birth.amount))
      yield {
        id: `${id}:${birth.id}:again`,
        title: `${name} fills what is full`,
        text: 'At a rate each cell is given again and again, on top of what is there: all at once fills it. Pour is what runs at a rate.',
        mend: mend('All at once', ['populations', index, 'births', births.indexOf(birth), 'amount'], {
          burst: 'all',
          at: frames.first,
        }),
      }
    const hollow = birth.holds === 'hollow'
    const held = solid.find((one) => one.mesh === birth.mesh)
    const vessel = meshes.find((one) => one.id === birth.mesh)?.name ?? birth.mesh
    const side = hollow ? 'outside' : 'inside'
    if (!held && acting(population, floor).length === 0)
      yield {
        id: `${id}:${birth.id}:unheld`,
        title: `Nothing holds ${name} in ${vessel}`,
        text: `It fills ${vessel} but does not collide with it, so it falls through.`,
        mend: mend(
          `Collide with ${vessel}`,
          ['populations', index, 'influences'],
          [...influences, collideWith(freeId(influences, collide.kind), birth.mesh as string, side, phases)],
        ),
      }
    else if (held && held.side === (hollow ? 'inside' : 'outside'))
      yield {
        id: `${id}:${birth.id}:side`,
        title: `${name} is on the wrong side of ${vessel}`,
        text: `It fills ${hollow ? 'the hollow' : 'the inside'} of ${vessel} but collides with it from the ${held.side as string}.`,
        mend: mend(
          `Collide from the ${side}`,
          ['populations', index, 'influences', influences.indexOf(held), 'side'],
          side,
        ),
      }
  }
  if (typeof population.particle.radius !== 'number' && population.particle.radius.spread > 0)
    yield {
      id: `${id}:uneven`,
      title: `Particles of ${name} differ in size`,
      text: 'Each fills a cell of a liquid as wide as it is: of one size they are laid without gaps.',
      mend: mend('One size', ['populations', index, 'particle', 'radius'], population.particle.radius.mean),
    }
  if (quality.previewShare < 1)
    yield {
      id: `${id}:coarser`,
      title: `The preview of ${name} is coarser`,
      text: `${percent(quality.previewShare)} of the particles, each ${percent(quality.previewShare ** (-1 / 3) - 1)} wider: as much liquid, in larger drops. Takes compute all.`,
    }
}

const collideWith = (id: string, mesh: string, side: string, phases: string[]) =>
  completeInfluence(
    { id, kind: collide.kind, mesh, side, weights: Object.fromEntries(phases.map((phase) => [phase, 1])) },
    phases,
  )
function freeId(influences: Population['influences'], wanted: string): string {
  let id = wanted
  for (let n = 2; influences.some((one) => one.id === id); n++) id = `${wanted}${n}`
  return id
}

/** Births that wait for splashes of a liquid that does not splash. */
export function* checkSplashes(shot: Shot, { id, name, births }: Population): Generator<Check> {
  for (const { id: birth, kind, amount, from } of births) {
    if (kind !== particles.kind || !('event' in amount) || amount.event !== 'splash') continue
    const index = shot.populations.findIndex((one) => one.id === from)
    const parent = shot.populations[index]
    if (!parent) continue
    const at = parent.influences.findIndex((one) => one.kind === liquid.kind && !one.muted)
    if (at >= 0 && parent.influences[at]!.splashes !== 0) continue
    yield {
      id: `${id}:${birth}:splashes`,
      title: `${parent.name} does not splash`,
      text: `${name} is born where it does: ${at < 0 ? 'it is no liquid' : 'Splashes of its Liquid are 0'}.`,
      ...(at < 0 ? {} : { mend: mend('Let it, 60 a second', ['populations', index, 'influences', at, 'splashes'], 60) }), // prettier-ignore
    }
  }
}

/** A fill that has given nothing, though nobody dies of age. */
export function* checkEmpty(shot: Shot, population: Population, frame: number): Generator<Check> {
  const { id, name, births, particle } = population
  if (particle.lifespan !== null) return
  for (const [n, birth] of births.entries()) {
    const { amount } = birth
    if (birth.kind !== fill.kind || birth.muted || !('burst' in amount) || amount.at > frame) continue
    const vessel = shot.meshes.find((one) => one.id === birth.mesh)?.name ?? birth.mesh
    const hollow = birth.holds === 'hollow'
    const path = ['populations', shot.populations.indexOf(population), 'births', n, 'holds']
    yield {
      id: `${id}:${birth.id}:empty`,
      title: `${name} finds no room in ${vessel}`,
      text: hollow
        ? `Up to its level ${vessel} has no hollow that holds as much as a particle: a closed mesh is filled inside.`
        : `Up to its level ${vessel} encloses no room for a particle: raise the level, make them smaller, or fill the hollow of a vessel that is open.`,
      mend: hollow ? mend('Fill its inside', path, 'inside') : mend('Fill its hollow', path, 'hollow'),
    }
  }
}

/** Denser than this it has lost volume that is seen. */
const COMPRESSED = 0.05

/** What the measures of a frame say. */
export function* checkCompression(
  shot: Shot,
  { id, name }: Population,
  measured: LiquidMeasures | null | undefined,
): Generator<Check> {
  if (!measured || measured.high < COMPRESSED) return
  const { substeps, iterations } = qualityOf(shot)
  yield {
    id: `${id}:compressed`,
    title: `${name} is compressed by up to ${percent(measured.high)}`,
    text: 'More rounds in each substep let pressure reach farther: deep liquids of many layers need more of them.',
    mend: mendQuality('Twice the iterations', shot, { substeps, iterations: Math.min(100, 2 * iterations) }),
  }
}
