/** All particles of the stage: points, instances and trails of each population. */
import { distancesApart, stepsOf, type Look, type RampChoice, type Shot } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import type { Group, Object3D, Vector3 } from 'three'
import type { Engine } from '../engine/engine.ts'
import { drawInstances } from './instances.ts'
import { drawPieces } from './pieces.ts'
import { drawPopulation, type CloudLight } from './particles.ts'
import type { Picked } from './picking.ts'
import { shadesOf, type Shades } from './shades.ts'
import { drawThreads } from './threads.ts'
import { drawTrails } from './trails.ts'

export interface CloudView {
  light: CloudLight
  /** Of the picture; and pixels of a metre at a metre's distance. */
  width: number
  height: number
  pixels: number
  /** Colours of the phases, where particles are told apart by them. */
  phases: string[] | null
  /** Particles in the colours of how far they are from where they are on the other side of a comparison. */
  byDistance: boolean
  marked: Picked | null
  /** Part of the particles that is drawn, 0–1; farther ones than the middle of the picture, metres away, go first. */
  part: number
  middle: number
  /** Where one looks, in the world. */
  ahead: Vector3
}

/** Particles that are drawn as meshes throw shadows as meshes do. */
function throwShadows(drawn: Object3D | undefined, { texels, shade }: CloudLight): void {
  drawn?.traverse((object) => {
    object.castShadow = texels > 0 && shade > 0
    object.receiveShadow = texels > 0
  })
}

interface Drawn {
  object: Object3D
  dispose(): void
}

interface Distances {
  other: PackedPopulation
  /** Metres, of those that are on both sides. */
  most: number
  shades: Shades
}
/** From where they are the same to the farthest apart, and beyond it who is on one side alone. */
const byDistance = (look: Look, most: number): Look => ({
  ...look,
  glow: null,
  colour: { from: 'attribute', range: [0, most * 1.001 || 1e-9], ramp: APART },
})
const APART: RampChoice = { stops: [[0, '#3a4a5a'], [0.02, '#4f8f8b'], [0.5, '#f0c45c'], [0.998, '#ff7a4d'], [1, '#ff3fa4']] } // prettier-ignore

/** What is made of the frames of populations to draw them, once for each. */
function createDerived(engine: Engine) {
  const madeShades = new WeakMap<PackedPopulation, { look: Look; made: Shades }>()
  const madeDistances = new WeakMap<PackedPopulation, Distances>()
  const madeSteps = new WeakMap<PackedPopulation, { beside: unknown[]; made: Float32Array }>()
  const populationAt = (frame: number, id: string) =>
    engine.populationsAt(frame)?.find((one) => one.id === id)
  return {
    populationAt,
    shadesFor(shot: Shot, population: PackedPopulation, look: Look): Shades {
      const known = madeShades.get(population)
      if (known?.look === look) return known.made
      const attributes = shot.populations.find((one) => one.id === population.id)?.attributes ?? []
      const made = shadesOf(population, look, attributes)
      madeShades.set(population, { look, made })
      return made
    },
    /** How far each is from where it is on the other side; null where that is not here. */
    distancesFor(population: PackedPopulation): Distances | null {
      const other = engine.opposite()?.find(({ id }) => id === population.id)
      if (!other) return null
      const known = madeDistances.get(population)
      if (known?.other === other) return known
      const values = distancesApart(population, other)
      const most = values.reduce((far, one) => (one < Infinity ? Math.max(far, one) : far), 0)
      const made = { other, most, shades: { colours: null, values, brights: null } }
      madeDistances.set(population, made)
      return made
    },
    /** How far each comes in a frame; made again when a frame beside it has come. */
    stepsFor(population: PackedPopulation): Float32Array {
      const [before, after] = [-1, 1].map((step) => populationAt(engine.frame + step, population.id))
      const known = madeSteps.get(population)
      if (known && known.beside[0] === before && known.beside[1] === after) return known.made
      const made = stepsOf(population, before, after)
      madeSteps.set(population, { beside: [before, after], made })
      return made
    },
  }
}

export function drawClouds(group: Group, engine: Engine, redraw: () => void) {
  const populations = new Map<string, ReturnType<typeof drawPopulation>>()
  const streaks = new Map<string, ReturnType<typeof drawPopulation>>()
  const instances = new Map<string, ReturnType<typeof drawInstances>>()
  const pieces = new Map<string, ReturnType<typeof drawPieces>>()
  const trails = new Map<string, ReturnType<typeof drawTrails>>()
  const threads = new Map<string, ReturnType<typeof drawThreads>>()
  const { shadesFor, stepsFor, distancesFor, populationAt } = createDerived(engine)

  function known<T extends Drawn>(all: Map<string, T>, id: string, make: () => T): T {
    let drawn = all.get(id)
    if (!drawn) {
      drawn = make()
      all.set(id, drawn)
      group.add(drawn.object)
    }
    return drawn
  }
  function keep(all: Map<string, Drawn>, stays: (id: string) => boolean): void {
    for (const [id, drawn] of all) {
      if (stays(id)) continue
      drawn.object.removeFromParent()
      drawn.dispose()
      all.delete(id)
    }
  }

  function place(shot: Shot, population: PackedPopulation, ownLook: Look, view: CloudView): void {
    const { id } = population
    const distances = view.byDistance ? distancesFor(population) : null
    const look = distances ? byDistance(ownLook, distances.most) : ownLook
    const marked = view.marked?.population === id ? view.marked.id : null
    const shades = distances?.shades ?? shadesFor(shot, population, look)
    const shown = { shot, population, look, marked, phases: view.phases, shades, share: view.part }
    const drawn =
      look.draw === 'pieces'
        ? known(pieces, id, () => drawPieces(engine.meshOf))
        : look.draw === 'instances'
          ? known(instances, id, () => drawInstances(engine.meshOf, redraw))
          : null
    const asMeshes = drawn?.show(shown) ?? false
    const isUnderSkin = look.skin?.particles === 'hidden'
    const seen = asMeshes || isUnderSkin ? undefined : population
    const asStreaks = look.draw === 'streaks'
    const cloud = asStreaks
      ? known(streaks, id, () => drawPopulation(true))
      : known(populations, id, drawPopulation)
    cloud.show(seen, shades, asStreaks && seen ? stepsFor(seen) : undefined)
    cloud.setLook(look, view.light, view.phases)
    throwShadows(drawn?.object, view.light)
    cloud.mark(marked)
    cloud.setView(view)
    const { width, height, pixels, light } = view
    if (look.threads) {
      const from = new Set(shot.populations.find((one) => one.id === id)?.births.map((birth) => birth.from))
      const bearers = shot.populations.flatMap(({ id: of }, number) => {
        const found = from.has(of) && engine.populations().find((one) => one.id === of)
        return found ? [{ population: found, number }] : []
      })
      const { rate } = engine.frames
      known(threads, id, drawThreads).show({ look, population, bearers, shades, rate, width, height, pixels })
    }
    if (!look.trail) return
    const { frame, frames } = engine
    const at = (of: number) => populationAt(of, id)
    known(trails, id, drawTrails).show({ look, population, shades, frame, rate: frames.rate, at, width, height, pixels, light }) // prettier-ignore
  }

  return {
    /** Draws the particles of the playhead; `looks` by the id of the population. */
    place(shot: Shot, looks: Map<string, Look>, view: CloudView): void {
      const now = engine.populations().filter(({ id }) => looks.has(id))
      const has = (id: string): boolean => now.some((one) => one.id === id)
      keep(populations, (id) => has(id) && looks.get(id)!.draw !== 'streaks')
      keep(streaks, (id) => has(id) && looks.get(id)!.draw === 'streaks')
      keep(instances, (id) => has(id) && looks.get(id)!.draw === 'instances')
      keep(pieces, (id) => has(id) && looks.get(id)!.draw === 'pieces')
      keep(trails, (id) => has(id) && looks.get(id)!.trail !== null)
      keep(threads, (id) => has(id) && looks.get(id)!.threads !== null)
      for (const population of now) place(shot, population, looks.get(population.id)!, view)
    },
    dispose(): void {
      for (const all of [populations, streaks, instances, pieces, trails, threads]) keep(all, () => false)
    },
  }
}
