import { completeMask, type Mask, type Shot, type Vector, freshId, freshName } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { stage } from '../stage/Stage.tsx'
import { store } from '../store/index.ts'
import { selected } from '../store/session.ts'
import { inserted } from '../store/shot.ts'
import { maskKind } from './maskKinds.ts'
import { roundedTo } from '../rounding.ts'
import { within } from './within.ts'

const round = (x: number): number => Number(x.toPrecision(3))

/** What a new mask is given so that it shows something at once: places and sizes of the meshes that are there. */
function fitting(kind: string, shot: Shot): Record<string, unknown> {
  const mesh = store.getState().session.selected.mesh ?? shot.meshes[0]?.id
  const {
    centre,
    reach,
    top: height,
  } = stage.world?.extent() ?? { centre: [0, 1, 0] as Vector, reach: 1, top: 2 }
  const [x, y, z] = centre.map((one) => roundedTo(one, reach)) as Vector
  const size = round(reach)
  const { first, rate } = shot.frames
  // a shot of one frame still has a next one
  const last = Math.max(first + 1, shot.frames.last)
  const top: Vector = [x, roundedTo(height, reach), z]
  const of = store.getState().session.selected.mask ?? shot.masks[0]?.id
  switch (kind) {
    case 'spread':
      return {
        mesh,
        from: { ball: top, radius: round(reach / 8) },
        // over the whole mesh within about two thirds of the shot
        speed: round((1.9 * reach) / (((last - first) / rate) * 0.65)),
        raggedScale: round(reach / 4),
        soft: round(reach / 20),
        start: first,
      }
    case 'slab': {
      const travel = { keys: [[first, roundedTo(x - reach, reach)], [last, roundedTo(x + reach, reach)]] } // prettier-ignore
      return { position: [travel, y, z], soft: round(reach / 8) }
    }
    case 'ball':
      return { centre: top, radius: round(size / 2), soft: round(reach / 8) }
    case 'box':
      return { centre: [x, y, z], size: [size, size, size], soft: round(reach / 8) }
    case 'noise':
      return { scale: round(reach / 3) }
    case 'inside':
      return { mesh: shot.meshes.at(-1)?.id, soft: round(reach / 20) }
    case 'painted':
      return { mesh }
    case 'seen':
      return { mesh: targetOf(shot) ?? mesh, soft: round(reach / 15) }
    case 'uv':
      return { mesh: withUv(mesh, shot) }
    default:
      return { of }
  }
}

/** The mesh that rays of particles are to meet. */
const targetOf = ({ populations }: Shot): string | undefined =>
  populations.flatMap(({ births }) => births).find(({ laid }) => laid === 'ray')?.mesh

/** This mesh if it has texture coordinates, else the first that has. */
function withUv(mesh: string | undefined, { meshes }: Shot): string | undefined {
  const having = meshes.filter(({ source }) => engine.meshOf(source)?.facts.uv)
  return (having.find(({ id }) => id === mesh) ?? having[0])?.id ?? mesh
}

/** Why a kind of mask can't be added yet, or null. */
export function missingFor(kind: string, shot: Shot): string | null {
  if (['spread', 'inside', 'painted', 'seen', 'uv'].includes(kind) && shot.meshes.length === 0)
    return 'needs a mesh'
  if (['front', 'mix'].includes(kind) && shot.masks.length === 0) return 'needs another mask'
  return null
}

export function addMask(kind: string): Mask {
  const { present } = store.getState().shot
  const { label, parameters } = maskKind({ kind })
  const name = freshName(
    label,
    present.masks.map((mask) => mask.name),
  )
  const id = freshId(
    name,
    present.masks.map((mask) => mask.id),
  )
  const mask = completeMask({ id, name, kind, ...within(parameters, fitting(kind, present)) })
  store.dispatch(inserted({ path: ['masks'], value: mask }))
  store.dispatch(selected({ mask: id, combing: null }))
  if (engine.frame === present.frames.first && !engine.playing)
    engine.seek(Math.round(present.frames.first + (present.frames.last - present.frames.first) / 3))
  return mask
}

/** The shot with one input of a mask off. */
export function withInputOff(shot: Shot, id: string, input: string): Shot {
  return {
    ...shot,
    masks: shot.masks.map((mask) => {
      if (mask.id !== id) return mask
      const off = maskKind(mask).inputs![input]
      if (off !== undefined) return { ...mask, [input]: off }
      const { [input]: _, ...rest } = mask
      return rest as Mask
    }),
  }
}
