import type { Machine } from '@tangle/kernels'
import { add, cross, length, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import type { Combing, Shot } from '../document/types.ts'
import { createBlocks } from './blocks.ts'
import type { Body } from './body.ts'
import { surfaceNear } from './surfaceProjection.ts'
import { combedDirections, sizedMesh } from './combing.ts'

/** A combing at work. */
export interface Combed {
  body: Body
  /** Pointers: the vertices at rest in world size, in the mesh's own frame, and their unit directions there (3 × f32 each; 0: none). */
  rest: number
  directions: number
}

export interface Combings {
  of(id: string): Combed
  dispose(): void
}

/** The combings of a shot, combed when they are first asked for. */
export function createCombings(machine: Machine, shot: Shot, bodies: Map<string, Body>): Combings {
  const blocks = createBlocks(machine.heap)
  function block(name: string, numbers: () => Float32Array, count: number): number {
    return blocks.of(name, count * 4 + 16, (pointer) => {
      const made = numbers()
      machine.heap.f32(pointer, count).set(made)
    })
  }
  return {
    of(id) {
      // the schema refuses combings that there are not
      const combing: Combing = shot.combings.find((one) => one.id === id)!
      const body = bodies.get(combing.mesh)!
      const count = body.mesh.positions.length
      return {
        body,
        rest: block(`${id} rest`, () => sizedMesh(body, shot.frames.first).positions, count),
        directions: block(`${id} directions`, () => combedDirections(machine, shot, body, combing), count),
      }
    },
    dispose: blocks.dispose,
  }
}

/** Unit directions in the world (3 × f32, to be freed) at places of the mesh's surface that were found nearest. */
export function combedWays(
  machine: Machine,
  { body, rest, directions }: Combed,
  feet: { point: number; triangle: number },
  frame: number,
  count: number,
): number {
  const out = machine.heap.allocate(count * 12)
  const { triangle, point } = feet
  const vertices = body.worldAt(frame)
  machine.run('combedWays', count, {
    triangle,
    point,
    vertices,
    triangles: body.triangles(),
    rest,
    directions,
    out,
  })
  return out
}

/** The same at the places of the combed mesh that are nearest to points of the world (3 × f32) at the start of a substep. */
export function combedNear(
  machine: Machine,
  combed: Combed,
  { from }: { from: number },
  points: number,
  count: number,
): number {
  const near = surfaceNear(machine, combed.body, from, points, count)
  const ways = combedWays(machine, combed, near, from, count)
  near.free()
  return ways
}

/** Arrows along combed directions, evenly over the mesh at a frame: a place and the way from there to the tip, 6 numbers each, in metres of the world. */
export function combedArrows(machine: Machine, combed: Combed, frame: number, most: number): Float32Array {
  const { heap } = machine
  const { body } = combed
  const corners = body.mesh.triangles
  const world = body.worldView(frame)
  const at = (t: number, k: number): Vector => vectorOf(world, corners[t * 3 + k]!)
  const areas = Float64Array.from({ length: corners.length / 3 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => at(t, k)) as [Vector, Vector, Vector]
    return length(cross(subtract(b, a), subtract(c, a))) / 2
  })
  const whole = areas.reduce((sum, area) => sum + area, 0)
  if (!(whole > 0)) return new Float32Array(0)
  const [point, triangle] = [heap.allocate(most * 12), heap.allocate(most * 4)]
  const [places, on] = [heap.f32(point, most * 3), heap.u32(triangle, most)]
  let [t, passed] = [0, 0]
  for (let k = 0; k < most; k++) {
    // every arrow has the same area; within a triangle places follow one another by the golden ratio
    const reached = ((k + 0.5) / most) * whole
    while (t < areas.length - 1 && passed + areas[t]! < reached) passed += areas[t++]!
    const u = Math.sqrt((reached - passed) / areas[t]!)
    const v = u * ((k * 0.618033988749895) % 1)
    const [a, b, c] = [0, 1, 2].map((corner) => at(t, corner)) as [Vector, Vector, Vector]
    writeVector(places, k, add(a, add(scale(subtract(b, a), u - v), scale(subtract(c, a), v))))
    on[k] = t
  }
  const ways = combedWays(machine, combed, { point, triangle }, frame, most)
  const found = heap.f32(ways, most * 3)
  const long = 0.8 * Math.sqrt(whole / most)
  const out = new Float32Array(most * 6)
  for (let k = 0; k < most; k++) {
    out.set(places.subarray(k * 3, k * 3 + 3), k * 6)
    out.set(scale(vectorOf(found, k), long), k * 6 + 3)
  }
  ;[point, triangle, ways].forEach((pointer) => heap.free(pointer))
  return out
}
