/** Meshes with directions for tests. */
import { createMachine } from '@tangle/kernels'
import { length, subtract, vectorOf, type Vector } from '../src/math/vector.ts'
import { createScene, type Mesh, type Shot } from '../src/index.ts'
import { ASSET, shotOf } from './help.ts'

export type Loose = Record<string, unknown>

/** A ring of radius R about the y axis, r thick. */
export function torus(R: number, r: number, around: number, across: number): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  const uvs: number[] = []
  for (let i = 0; i < around; i++)
    for (let j = 0; j < across; j++) {
      uvs.push(...[[i, j], [i, j + 1], [i + 1, j], [i + 1, j], [i, j + 1], [i + 1, j + 1]].flatMap(([p, q]) => [p! / around, q! / across])) // prettier-ignore
      const [a, b] = [(2 * Math.PI * i) / around, (2 * Math.PI * j) / across]
      const w = R + r * Math.cos(b)
      positions.push(w * Math.cos(a), r * Math.sin(b), w * Math.sin(a))
      const at = (p: number, q: number) => (p % around) * across + (q % across)
      triangles.push(at(i, j), at(i, j + 1), at(i + 1, j), at(i + 1, j), at(i, j + 1), at(i + 1, j + 1))
    }
  return {
    positions: new Float32Array(positions),
    triangles: new Uint32Array(triangles),
    uvs: new Float32Array(uvs),
  }
}

export const combing = (more: Loose): Loose => ({
  id: 'hair',
  mesh: 'box',
  start: 'direction',
  direction: [1, 0, 0],
  ...more,
})
export const stroke = (more: Loose): Loose => ({
  brush: 'comb',
  radius: 0.3,
  strength: 1,
  points: [],
  ...more,
})
export const combedShot = (more: Loose, place: Loose = {}): Shot =>
  shotOf(
    {},
    { meshes: [{ id: 'box', source: { asset: ASSET }, place, detail: 1000 }], combings: [combing(more)] },
  )

/** Directions at the vertices of a mesh at rest, in its own frame. */
export function directionsOf(
  mesh: Mesh,
  more: Loose,
  place: Loose = {},
): { at(v: number): Vector; all: Vector[]; mesh: Mesh } {
  const machine = createMachine()
  const scene = createScene(machine, combedShot(more, place), new Map([[ASSET, mesh]]), new Set(['box']))
  const { directions, body } = scene.combings.of('hair')
  const numbers = machine.heap.f32(directions, body.mesh.positions.length).slice()
  const all = Array.from({ length: numbers.length / 3 }, (_, v) => vectorOf(numbers, v))
  return { at: (v) => all[v]!, all, mesh: body.mesh }
}
/** The vertex nearest to a place. */
export const near = (mesh: Mesh, place: Vector): number => {
  const far = Array.from({ length: mesh.positions.length / 3 }, (_, v) => length(subtract(vectorOf(mesh.positions, v), place))) // prettier-ignore
  return far.indexOf(Math.min(...far))
}
export const close = (way: Vector, digits = 5) => way.map((x) => expect.closeTo(x, digits))
