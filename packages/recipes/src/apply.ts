import {
  freshId,
  freshName,
  readShot,
  standsOff,
  type Mesh,
  type Read,
  type Shot,
  type ShotMesh,
} from '@tangle/core'
import type { Loose, Made, Recipe } from './recipe.ts'
import { standingOf, type Standing } from './standing.ts'

/** Which mesh of the shot fills a slot, and what it is. */
export interface Given {
  id: string
  mesh: Mesh
}

/**
 * A shot with a recipe written into it: into an empty one with its frames, camera and light, into another beside what is
 * there, with more frames if it takes more. Every slot must be given.
 */
export function withRecipe(recipe: Recipe, shot: Shot, given: Record<string, Given>): Read {
  const { first, last, rate } = shot.frames
  const empty = shot.populations.length === 0
  const taken = [...shot.meshes, ...shot.masks, ...shot.combings, ...shot.populations].map(({ id }) => id)
  const standings = Object.fromEntries(
    recipe.slots.map(({ id: slot }) => {
      const { id, mesh } = given[slot]!
      return [
        slot,
        standingOf(
          mesh,
          shot.meshes.find((one) => one.id === id)!,
          first,
        ),
      ]
    }),
  )
  const made = recipe.make(standings, {
    rate,
    at: (seconds) => first + Math.round(seconds * rate),
    ramp: standsOff(empty ? 'dusk' : shot.stage.backdrop),
    id(wanted) {
      const id = freshId(wanted, taken)
      taken.push(id)
      return id
    },
  })
  const end = first + Math.round(made.seconds * rate) - 1
  const named = <T extends { name: string }>(entries: Loose[] = [], others: T[]): Loose[] =>
    entries.map((one) => ({ ...one, name: freshName(one.name as string, namesOf(others)) }))
  return readShot({
    ...shot,
    frames: { first, rate, last: empty ? end : Math.max(last, end) },
    ...(empty ? beginningsOf(made, shot, recipe, standings) : {}),
    meshes: [
      ...shot.meshes.map((mesh) => changedMesh(mesh, made, given)),
      ...named(made.meshes, shot.meshes),
    ],
    masks: [...shot.masks, ...named(made.masks, shot.masks)],
    populations: [...shot.populations, ...named(made.populations, shot.populations)],
    lifted: made.tries.map(([label, path]) => ({ label, path })),
  })
}

const namesOf = (entries: { name: string }[]): string[] => entries.map(({ name }) => name)

function changedMesh(mesh: ShotMesh, made: Made, given: Record<string, Given>): Loose {
  const slots = Object.keys(made.given ?? {}).filter((slot) => given[slot]?.id === mesh.id)
  return Object.assign({ ...mesh }, ...slots.map((slot) => made.given![slot]))
}

/** What a recipe sets in a shot that has nothing yet: how it is computed, lit and looked at. */
function beginningsOf(
  { share = 1, backdrop = 'dusk', light, bloom, room = 0.25, from = [0.25, 0.3, 1] }: Made,
  shot: Shot,
  { about, slots }: Recipe,
  standings: Record<string, Standing>,
): Loose {
  const seen = (about ?? slots.map(({ id }) => id)).map((slot) => standings[slot]!)
  const low = [0, 1, 2].map((k) => Math.min(...seen.map((one) => one.low[k]!)))
  const high = [0, 1, 2].map((k) => Math.max(...seen.map((one) => one.high[k]!)))
  const target = low.map((x, k) => (x + high[k]!) / 2)
  const radius = (Math.hypot(...low.map((x, k) => high[k]! - x)) / 2) * (1 + room)
  const fieldOfView = 40
  const distance = Math.max(1e-3, radius) / Math.sin((fieldOfView * Math.PI) / 360)
  const length = Math.hypot(...from)
  return {
    quality: { ...shot.quality, level: 'good', previewShare: share },
    stage: {
      ...shot.stage,
      camera: { position: target.map((x, k) => x + (from[k]! / length) * distance), target, fieldOfView },
      backdrop,
      ...(light && { light: { ...shot.stage.light, ...light } }),
      ...(bloom && { bloom }),
    },
  }
}
