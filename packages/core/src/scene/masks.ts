import type { Machine } from '@tangle/kernels'
import { seedFrom } from '../math/random.ts'
import { valuesAt } from '../document/keys.ts'
import type { Mask, Shot } from '../document/types.ts'
import type { Body } from './body.ts'
import { feetOf } from './feet.ts'
import { createBlocks } from './blocks.ts'
import type { MaskContext, MaskKind, Places } from './mask.ts'
import type { Seen } from './seen.ts'

export interface Masks {
  /** Writes the values of a mask at places (f32 each). */
  write(id: string, places: Places, out: number): void
  /** The values of a mask at the vertices of a body; kept for a while, so never to be written to. */
  atVertices(id: string, body: Body, frame: number): Float32Array
  /** Forgets the values that are kept: something that they follow from has changed. */
  forget(): void
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
  seen: Seen,
): Masks {
  const { heap } = machine
  const blocks = createBlocks(heap)
  const { first, rate } = shot.frames
  let kept: { id: string; body: Body; frame: number; values: Float32Array }[] = []

  function contextOf(mask: Mask): MaskContext {
    return {
      machine,
      first,
      rate,
      seed: seedFrom(shot.seed, mask.id),
      written: mask,
      body: (id) => bodies.get(id)!,
      write,
      sample: (body, places, values, outs) => sample(machine, body, places, values, outs),
      seen,
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
    forget: () => (kept = []),
    dispose: blocks.dispose,
  }
}

/** Values at the vertices of a body, brought to places: the vertices themselves, or where the places stand on its surface. */
function sample(machine: Machine, body: Body, places: Places, values: number[], outs: number[]): void {
  const { heap } = machine
  const { count } = places
  if (places.verticesOf === body.shotMesh.id) {
    outs.forEach((out, k) => heap.f32(out, count).set(heap.f32(values[k]!, count)))
    return
  }
  const feet = feetOf(machine, body, places)
  const on = { triangle: feet.triangle, stride: 1, first: 0, at: feet.weights, atStride: 2, triangles: body.triangles() } // prettier-ignore
  outs.forEach((out, k) => machine.run('sampleSurface', count, { ...on, values: values[k]!, out }))
  feet.free()
}
