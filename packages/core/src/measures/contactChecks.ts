/** Checks of contact and links: what goes wrong there, with the number and the mend. */
import { surface } from '../births/surface.ts'
import { meanOf } from '../document/parameters.ts'
import type { Population, Shot } from '../document/types.ts'
import { collide } from '../influences/collide.ts'
import { cover } from '../influences/cover.ts'
import { link } from '../influences/link.ts'
import { selfCollision } from '../influences/selfCollision.ts'
import { sleep } from '../influences/sleep.ts'
import { qualityOf } from '../schema/quality.ts'
import type { Check } from './check.ts'
import { acting, mend, mendQuality, percent, round } from './words.ts'
import type { PopulationMeasures } from './measures.ts'

/** What can be told from the document. */
export function* checkLinked({ quality }: Shot, population: Population): Generator<Check> {
  if (acting(population, link).length === 0 || quality.previewShare === 1) return
  yield {
    id: `${population.id}:thinned`,
    title: `The preview of ${population.name} lacks links`,
    text: `It computes ${percent(quality.previewShare)} of the particles, and neighbours that are left out can't be linked. Takes compute all.`,
    mend: mend('Preview all', ['quality', 'previewShare'], 1),
  }
}

/** Covers on meshes on which nothing can lie. */
export function* checkCovers({ meshes }: Shot, population: Population): Generator<Check> {
  const solid = acting(population, collide).map((one) => one.mesh)
  for (const { id, mesh } of acting(population, cover)) {
    if (solid.includes(mesh)) continue
    const name = meshes.find((one) => one.id === mesh)?.name ?? mesh
    yield {
      id: `${population.id}:${id}:bare`,
      title: `${name} gathers no cover`,
      text: `${population.name} do not collide with it, so nothing lies there: add Collide with ${name} in the Motion step.`,
    }
  }
}

/** What the measures of a frame say. */
export function* checkContact(
  shot: Shot,
  population: Population,
  measured: PopulationMeasures,
  frame: number,
): Generator<Check> {
  const { frames } = shot
  const quality = qualityOf(shot)
  const at = ['populations', shot.populations.indexOf(population)]
  const { id, name } = population
  const { contact, links, overlaps, alive } = measured
  const last = frame >= frames.last
  if (contact && contact.inside > 0.005 * alive) yield insideCheck(shot, population, at, measured, frame)
  if (links) yield* checkBreaking(shot, population, at, links, frame)
  if (overlaps && acting(population, selfCollision).length > 0) {
    const deep = overlaps.worst / meanOf(population.particle.radius)
    if (deep > 0.25 && overlaps.touching > 0.05 * alive) {
      yield {
        id: `${id}:pressed`,
        title: `${name} overlap by up to ${round(overlaps.worst * 1000)} mm`,
        text: `That is ${percent(deep)} of the radius, and ${percent(overlaps.touching / alive)} of them overlap: more substeps keep them apart, then more iterations.`,
        mend: mendQuality('Twice the substeps', shot, { substeps: Math.min(64, quality.substeps * 2) }),
      }
    }
  }
  const [resting] = acting(population, sleep)
  if (last && contact && resting && contact.asleep < 0.5 * alive && measured.born === 0) {
    const awake = 1 - contact.asleep / alive
    const slow = typeof resting.speed === 'number' && measured.speed.median < 4 * resting.speed
    if (slow) {
      yield {
        id: `${id}:creeping`,
        title: `${percent(awake)} of ${name} still creep at the last frame`,
        text: `Half of them go slower than ${round(measured.speed.median)} m/s, but do not come to rest: more iterations let a heap lie still.`,
        mend: mendQuality('Twice the iterations', shot, {
          iterations: Math.min(256, quality.iterations * 2),
        }),
      }
    }
  }
}

function insideCheck(
  { frames }: Shot,
  { id, name, particle, births, influences }: Population,
  at: (string | number)[],
  { contact, alive }: PopulationMeasures,
  frame: number,
): Check {
  const share = percent(contact!.inside / alive)
  if (frame > frames.first + 2) {
    return {
      id: `${id}:through`,
      title: `${share} of ${name} are on the wrong side of what they collide with`,
      text: 'They were born there, or something else moved them through: let the contact come last, or begin where they are outside.',
    }
  }
  const gap = round(meanOf(particle.radius) * 1.1)
  const against = influences.filter((one) => one.kind === collide.kind).map((one) => one.mesh)
  const b = births.findIndex((birth) => birth.kind === surface.kind && against.includes(birth.mesh!)) // those on a surface have one
  return {
    id: `${id}:inside`,
    title: `${share} of ${name} start on the wrong side of what they collide with`,
    text: `Begin at least ${gap} m off it, a little more than their radius.`,
    ...(b >= 0 ? { mend: mend(`Begin ${gap} m off`, [...at, 'births', b, 'offset'], gap) } : {}),
  }
}

function* checkBreaking(
  { frames }: Shot,
  population: Population,
  at: (string | number)[],
  { made, broken, most }: NonNullable<PopulationMeasures['links']>,
  frame: number,
): Generator<Check> {
  const [linking] = acting(population, link)
  if (!linking || typeof linking.breaks !== 'number' || linking.breaks === 0 || made === 0) return
  const path = [...at, 'influences', population.influences.indexOf(linking), 'breaks']
  const since = frame - frames.first
  if (broken > 0.3 * made && since <= frames.rate / 2) {
    const more = round(linking.breaks * 4)
    yield {
      id: `${population.id}:brittle`,
      title: `${population.name} breaks at once`,
      text: `${percent(broken / made)} of its links are gone after ${since} frames: they break at a stretch of ${percent(linking.breaks)}. Let them bear more, or start farther from what they hit.`,
      mend: mend(`Break at ${percent(more)}`, path, more),
    }
  }
  if (frame >= frames.last && broken === 0) {
    const less = round(Math.max(most * 0.7, 1e-4))
    yield {
      id: `${population.id}:tough`,
      title: `${population.name} never breaks`,
      text: `Its links stretch by ${percent(most)} at most, and break at ${percent(linking.breaks)}.`,
      mend: mend(`Break at ${percent(less)}`, path, less),
    }
  }
}
