import {
  completeCombing,
  INFLUENCES,
  valueAt,
  type Combing,
  type Shot,
  freshId,
  freshName,
} from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { store } from '../store/index.ts'
import { combedWith, noticed, selected } from '../store/session.ts'
import { inserted } from '../store/shot.ts'

const round = (x: number): number => Number(x.toPrecision(2))

/** Half the longest side of a mesh where it stands, metres. */
function reachOf({ meshes, frames }: Shot, mesh: string): number {
  const { source, place } = meshes.find(({ id }) => id === mesh)!
  const facts = engine.meshOf(source)?.facts
  if (!facts) return 1
  return (
    Math.max(
      ...facts.high.map((x, k) => Math.abs((x - facts.low[k]!) * valueAt(place.scale[k]!, frames.first))),
    ) / 2
  )
}

/** Values of an influence that follows a combing, by the size of its mesh. */
export function fittingFollow(shot: Shot, combing: Combing): Record<string, number> {
  const reach = reachOf(shot, combing.mesh)
  return {
    speed: round(reach / 2),
    offset: round(reach / 100),
    reach: round(reach / 20),
  }
}

/** A combing of a mesh that shows something at once: along V where it has texture coordinates, else down the slope. */
export function newCombing(shot: Shot, mesh: string): Combing {
  const { name, source } = shot.meshes.find(({ id }) => id === mesh)!
  const called = freshName(
    `Combing of ${name}`,
    shot.combings.map((one) => one.name),
  )
  return completeCombing({
    id: freshId(
      'combing',
      shot.combings.map((one) => one.id),
    ),
    name: called,
    mesh,
    start: engine.meshOf(source)?.facts.uv ? 'v' : 'slope',
    scale: round(reachOf(shot, mesh) / 2),
  })
}

/** Adds a combing of the selected mesh, with a brush that fits it. */
export function addCombing(): void {
  const { shot, session } = store.getState()
  const { present } = shot
  const mesh = present.meshes.find(({ id }) => id === session.selected.mesh) ?? present.meshes[0]
  if (!mesh) {
    store.dispatch(
      noticed({ text: 'A combing lies on a mesh: bring one in the Meshes step first', tone: 'error' }),
    )
    return
  }
  const combing = newCombing(present, mesh.id)
  store.dispatch(inserted({ path: ['combings'], value: combing }))
  store.dispatch(selected({ combing: combing.id }))
  store.dispatch(combedWith({ radius: round(reachOf(present, mesh.id) / 4), on: true }))
}

/** What follows a combing, in words. */
export const combingFollowers = (shot: Shot, { id }: Combing): string[] =>
  shot.populations.flatMap((population) =>
    population.influences
      .filter((influence) => influence.combing === id)
      .map(
        ({ name, kind }) =>
          `${population.name} go along it by ${name ?? INFLUENCES.find((one) => one.kind === kind)!.label}`,
      ),
  )
