/**
 * Shows meshes and masks of one moment: what is left of meshes that are eaten, meshes that ripple, the values
 * of a mask on meshes and in a plane, the directions of a combing. Beside the simulator, so that looking around does not wait for it.
 */
import {
  asksSeen,
  combedArrows,
  createScene,
  readyFor,
  shadedBody,
  shadedCut,
  shadedRest,
  type Masks,
  type Scene,
  type SeenPlaces,
  type Mesh,
  type Shot,
} from '@tangle/core'
import { createMachine, type Machine } from '@tangle/kernels'
import manifoldWasm from 'manifold-3d/manifold.wasm?url'
import { buffersOf, type PackedMesh } from './packed.ts'

export interface SurfaceRequest {
  request: number
  shot: Shot
  frame: number
  /** A mask to show on all meshes and in a plane. */
  heat: { mask: string; variant: Shot | null; plane: CutPlane | null } | null
  /** A combing whose directions are shown. */
  combing: string | null
  /** Where rays have met meshes so far; null: nobody knows, and meshes that are eaten by it are left out. */
  seen: SeenPlaces[] | null
}
/** A square of points: its middle and two half sides, metres. */
export interface CutPlane {
  centre: [number, number, number]
  across: [number, number, number]
  up: [number, number, number]
}
export interface SurfaceAnswer {
  request: number
  frame: number
  meshes: PackedMesh[]
  /** PLANE_POINTS² values, row by row. */
  plane: Float32Array | null
  /** Places and ways to the tips, 6 numbers an arrow. */
  arrows: Float32Array | null
  fault?: string
}
export const PLANE_POINTS = 128
const ARROWS = 3000

interface Ready extends Scene {
  shot: Shot
}

const machine: Machine = createMachine()
const meshes = new Map<string, Mesh>()
const ready = new Map<string, Ready>()

onmessage = ({ data }: MessageEvent<SurfaceRequest | { key: string; mesh: Mesh }>) => {
  if ('key' in data) {
    meshes.set(data.key, data.mesh)
    return
  }
  void readyFor({ meshes: data.shot.meshes, populations: [] }, manifoldWasm).then(() => answerTo(data))
}

function answerTo(data: SurfaceRequest): void {
  let answer: SurfaceAnswer
  try {
    answer = show(data)
  } catch (error) {
    ready.clear()
    machine.heap.reset()
    answer = {
      request: data.request,
      frame: data.frame,
      meshes: [],
      plane: null,
      arrows: null,
      fault: (error as Error).message,
    }
  }
  const buffers = buffersOf([], answer.meshes)
  for (const array of [answer.plane, answer.arrows]) if (array) buffers.push(array.buffer as ArrayBuffer)
  ;(globalThis as unknown as Worker).postMessage(answer, buffers)
}

/**
 * Bodies and masks of a shot, kept until what they are made of changes. To show a mask all meshes are split:
 * between the corners of a large triangle any mask has an edge.
 */
function prepare(name: string, shot: Shot, fine: boolean, seen: SeenPlaces[] | null): Ready {
  const made = sceneOf(name, shot, fine)
  if (seen && seen.length > 0) {
    made.seen.restore(seen)
    made.masks.forget()
  }
  return made
}

function sceneOf(name: string, shot: Shot, fine: boolean): Ready {
  const kept = ready.get(name)
  const makeup = (s: Shot): string =>
    JSON.stringify([s.seed, s.frames.first, s.frames.rate, s.meshes, s.masks, s.combings])
  if (kept && makeup(kept.shot) === makeup(shot)) return kept
  kept?.dispose()
  const ids = new Set(shot.meshes.map((mesh) => mesh.id))
  const made = { shot, ...createScene(machine, shot, meshes, ids, fine ? ids : undefined) }
  ready.set(name, made)
  return made
}

function show({ request, shot, frame, heat, combing, seen }: SurfaceRequest): SurfaceAnswer {
  const { bodies, masks, combings } = prepare(heat ? 'heat' : 'shot', shot, heat !== null, seen)
  const variant = heat?.variant ? prepare('variant', heat.variant, true, seen) : null
  const shown = shot.meshes.flatMap(({ id, eaten, cut, visible }) => {
    const body = bodies.get(id)!
    // a set of points has no surface
    if (!visible || body.mesh.triangles.length === 0) return []
    if (heat) {
      const values = masks.atVertices(heat.mask, body, frame).slice()
      const others = variant?.masks.atVertices(heat.mask, variant.bodies.get(id)!, frame).slice()
      const { vertices, ...mesh } = shadedBody(body, frame)
      const ofVertices = (all: Float32Array) => Float32Array.from(vertices, (v) => all[v]!)
      return [{ id, ...mesh, values: ofVertices(values), ...(others ? { others: ofVertices(others) } : {}) }]
    }
    if (cut) {
      const { inner, ...mesh } = shadedCut(body, bodies.get(cut.by)!, cut, frame)
      return [{ id, ...mesh, ...(inner === undefined ? {} : { inner }) }]
    }
    if (!eaten && !body.deforms) return []
    if (eaten && !seen && asksSeen(shot, eaten.mask)) return []
    const { positions, triangles, normals } = shadedRest(body, masks, frame)
    return [{ id, positions, triangles, normals }]
  })
  return {
    request,
    frame,
    meshes: shown,
    plane: heat?.plane ? planeValues(masks, heat.mask, heat.plane, frame) : null,
    arrows: shot.combings.some(({ id }) => id === combing)
      ? combedArrows(machine, combings.of(combing!), frame, ARROWS)
      : null,
  }
}

function planeValues(
  masks: Masks,
  mask: string,
  { centre, across, up }: CutPlane,
  frame: number,
): Float32Array {
  const { heap } = machine
  const count = PLANE_POINTS ** 2
  const [positions, out] = [heap.allocate(count * 12), heap.allocate(count * 4)]
  const points = heap.f32(positions, count * 3)
  for (let i = 0; i < count; i++) {
    const u = ((i % PLANE_POINTS) / (PLANE_POINTS - 1)) * 2 - 1
    const v = (Math.floor(i / PLANE_POINTS) / (PLANE_POINTS - 1)) * 2 - 1
    for (let axis = 0; axis < 3; axis++)
      points[i * 3 + axis] = centre[axis]! + across[axis]! * u + up[axis]! * v
  }
  masks.write(mask, { count, positions, frame }, out)
  const values = heap.f32(out, count).slice()
  heap.free(positions)
  heap.free(out)
  return values
}
