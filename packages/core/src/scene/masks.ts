import type { Machine } from '@tangle/kernels'
import { nearSurface } from './distance.ts'
import { seedFrom } from '../math/random.ts'
import { valuesAt } from '../document/keys.ts'
import type { Mask, Shot } from '../document/types.ts'
import type { Body } from './body.ts'
import { weightsOfNear } from './surfaceProjection.ts'
import { RIGID } from '../scene/points.ts'
import { createBlocks } from './blocks.ts'
import type { MaskContext, MaskKind, Places } from './mask.ts'

export interface Masks {
  /** Writes the values of a mask at places (f32 each). */
  write(id: string, places: Places, out: number): void
  /** The values of a mask at the vertices of a body; kept for a while, so never to be written to. */
  atVertices(id: string, body: Body, frame: number): Float32Array
  dispose(): void
}

/** Values at vertices that are kept: of the start and the end of a substep, for some masks and meshes. */
const KEPT = 12

/** The masks of a shot, ready to be evaluated. */
export function createMasks(
  machine: Machine,
  shot: Shot,
  bodies: Map<string, Body>,
  kinds: MaskKind[],
): Masks {
  const { heap } = machine
  const blocks = createBlocks(heap)
  const { first, rate } = shot.frames
  const kept: { id: string; body: Body; frame: number; values: Float32Array }[] = []

  function contextOf(mask: Mask): MaskContext {
    return {
      machine,
      first,
      rate,
      seed: seedFrom(shot.seed, mask.id),
      written: mask,
      body: (id) => bodies.get(id)!,
      write,
      sample: (body, places, values, out) => sample(machine, body, places, values, out),
      keep: (name, bytes, fill) => blocks.of(`${mask.id} ${name}`, bytes, fill),
    }
  }
  function write(id: string, places: Places, out: number): void {
    if (places.count === 0) return
    // the schema refuses masks and kinds that there are not
    const mask = shot.masks.find((one) => one.id === id)!
    const kind = kinds.find((one) => one.kind === mask.kind)!
    kind.write(valuesAt(kind.parameters, mask, places.frame), places, out, contextOf(mask))
  }

  return {
    write,
    atVertices(id, body, frame) {
      const known = kept.find((one) => one.id === id && one.body === body && one.frame === frame)
      if (known) return known.values
      const count = body.mesh.positions.length / 3
      const out = heap.allocate(count * 4)
      // the ground of a cover is its mesh, split more finely: its vertices are not those of the mesh
      const its = bodies.get(body.shotMesh.id) === body
      const places = { count, positions: body.worldAt(frame), frame }
      write(id, its ? { ...places, verticesOf: body.shotMesh.id } : places, out)
      const values = heap.f32(out, count).slice()
      heap.free(out)
      kept.push({ id, body, frame, values })
      if (kept.length > KEPT) kept.shift()
      return values
    },
    dispose: blocks.dispose,
  }
}

/**
 * Values at the vertices of a body, brought to places: the vertices themselves; where a particle is anchored
 * on the body; else the nearest point of its surface.
 */
function sample(machine: Machine, body: Body, places: Places, values: number, out: number): void {
  const { heap } = machine
  const { count } = places
  if (places.verticesOf === body.shotMesh.id) {
    heap.f32(out, count).set(heap.f32(values, count))
    return
  }
  const anchored = places.anchors && anchoredOn(machine, places, body)
  if (places.anchors && anchored === count) {
    const { anchor, at } = places.anchors
    machine.run('sampleSurface', count, {
      triangle: anchor,
      stride: 2,
      first: 1,
      at,
      atStride: 3,
      triangles: body.triangles(),
      values,
      out,
    })
    return
  }
  const near = nearSurface(machine, body, places.frame, places.positions, count, false)
  const weights = weightsOfNear(machine, body, places.frame, near, count)
  machine.run('sampleSurface', count, {
    triangle: near.triangle,
    stride: 1,
    first: 0,
    at: weights,
    atStride: 2,
    triangles: body.triangles(),
    values,
    out,
  })
  heap.free(weights)
  near.free()
  if (places.anchors && anchored) {
    const own = heap.allocate(count * 4)
    const ours = heap.u32(places.anchors.anchor, count * 2)
    // particles of other meshes have no triangle of this one: they are given the first
    const safe = heap.allocate(count * 8)
    const copy = heap.u32(safe, count * 2)
    for (let i = 0; i < count; i++) copy[i * 2 + 1] = isOn(ours, i, body) ? ours[i * 2 + 1]! : 0
    machine.run('sampleSurface', count, {
      triangle: safe,
      stride: 2,
      first: 1,
      at: places.anchors.at,
      atStride: 3,
      triangles: body.triangles(),
      values,
      out: own,
    })
    const [from, to] = [heap.f32(own, count), heap.f32(out, count)]
    for (let i = 0; i < count; i++) if (isOn(ours, i, body)) to[i] = from[i]!
    heap.free(own)
    heap.free(safe)
  }
}

const isOn = (anchor: Uint32Array, i: number, body: Body): boolean =>
  anchor[i * 2] === body.number && anchor[i * 2 + 1] !== RIGID

function anchoredOn(machine: Machine, { count, anchors }: Places, body: Body): number {
  const anchor = machine.heap.u32(anchors!.anchor, count * 2)
  let on = 0
  for (let i = 0; i < count; i++) if (isOn(anchor, i, body)) on++
  return on
}
