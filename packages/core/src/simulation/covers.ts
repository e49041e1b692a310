/**
 * What lies on meshes becomes a cover: heights over their ground, which coverAccumulation.ts makes thicken, run off and melt. What
 * collides with the mesh collides with the cover on it.
 */
import type { Machine } from '@tangle/kernels'
import { coverOver, groundOf, type Ground } from '../geometry/ground.ts'
import { refine } from '../geometry/refine.ts'
import { buildTree, freeTree, windingNumbers } from '../geometry/tree.ts'
import { createCoverGround, type CoverGround } from './coverGround.ts'
import { DEFORMATIONS, influenceKind } from '../registry.ts'
import { coveredMeshes } from '../schema/coveredMeshes.ts'
import type { Population, Shot } from '../document/types.ts'
import { createBody, type Body } from '../scene/body.ts'
import { heightFieldBody } from '../scene/heightField.ts'
import type { MeshFrame } from '../scene/clippedMesh.ts'

export interface Cover {
  /** The mesh with its cover, for what collides. */
  body: Body
  /** Metres over each vertex, views of the heap: now, which is part of a snapshot, and at the end of the frame before. */
  heights: Float32Array
  before: Float32Array
  shape: Ground
  ground: CoverGround
  /** Where what goes over the rim comes down: the cover and its vertex, or null. */
  below: ({ cover: Cover; vertex: number } | null)[]
  /** The mesh without it. */
  bare: Body
  /** Has the body looked at anew; no height is above `highest` metres. */
  raise(highest: number): void
  dispose(): void
}
export interface CoverMeasures {
  id: string
  /** m³ of cover, and its greatest height in metres. */
  volume: number
  deepest: number
}

/** Covers lower than this are not drawn, metres. */
const LEAST = 1e-3

/** The cover of a mesh among the meshes of a frame: no mesh can have such an id. */
export const coverId = (mesh: string): string => `${mesh}.cover`
export const coveredMesh = (id: string): string | null =>
  id.endsWith('.cover') ? id.slice(0, -'.cover'.length) : null

/** Ids of the meshes that a population hits from outside. */
export const meshesHit = ({ influences }: Population): string[] =>
  influences.flatMap((one) => (one.muted ? [] : (influenceKind(one.kind).keepsOutside?.(one) ?? [])))

/** Covers without anything on them yet, by the id of their mesh. */
export function createCovers(machine: Machine, shot: Shot, bodies: Map<string, Body>): Map<string, Cover> {
  const { first } = shot.frames
  const covers = new Map<string, Cover>()
  // where something solid stands on the ground nothing lies
  const standing = new Set(shot.populations.flatMap(meshesHit))
  for (const [id, detail] of coveredMeshes(shot)) {
    const { mesh, shotMesh, number, sizeAt } = bodies.get(id)!
    const fine = refine(mesh, detail, sizeAt(first))
    const bare = createBody(machine, shot, shotMesh, number, fine, DEFORMATIONS)
    const positions = bare.worldView(first).slice()
    const others = [...standing].filter((other) => other !== id).map((other) => bodies.get(other)!)
    const still = others.filter(({ moves }) => !moves)
    const inside = insideOf(machine, still, first, positions)
    const shape = groundOf({ positions, triangles: fine.triangles }, facingOf(bare, first), (v) => inside[v]!)
    covers.set(id, coverOf(machine, bare, shape, first))
  }
  for (const cover of covers.values()) findBelow(cover, [...covers.values()], first)
  return covers
}

/** Without anything on it. */
function coverOf(machine: Machine, bare: Body, shape: Ground, first: number): Cover {
  const { heap } = machine
  const count = shape.area.length
  const [heights, before] = [0, 1].map(() => heap.f32(heap.allocate(count * 4), count).fill(0)) as [
    Float32Array,
    Float32Array,
  ]
  const ground = createCoverGround(heap, shape, bare.mesh.triangles)
  const raised = heightFieldBody(machine, bare, heights, first)
  return {
    ...raised,
    heights,
    before,
    shape,
    ground,
    below: [],
    bare,
    dispose() {
      raised.dispose()
      ground.free()
      for (const view of [heights, before]) heap.free(view.byteOffset)
    },
  }
}

/** On which side the outside of a body's triangles is; of open ones either is. */
function facingOf({ facts, sizeAt }: Body, frame: number): number {
  const [x, y, z] = sizeAt(frame)
  return facts.openEdges > 0 ? 0 : Math.sign(x * y * z)
}

/** Which points of the world are inside one of some bodies. */
function insideOf(machine: Machine, bodies: Body[], frame: number, positions: Float32Array): boolean[] {
  const inside = Array.from({ length: positions.length / 3 }, () => false)
  for (const body of bodies) {
    const tree = buildTree(machine, {
      positions: body.worldView(frame).slice(),
      triangles: body.outward,
    })
    windingNumbers(machine, tree, positions).forEach((w, v) => (inside[v] = inside[v]! || w > 0.5))
    freeTree(machine.heap, tree)
  }
  return inside
}

/** For each vertex of the rim the highest ground below it, a step out. */
function findBelow(cover: Cover, all: Cover[], frame: number): void {
  const { shape, bare } = cover
  const p = bare.worldView(frame)
  const others = all.map((other) => ({ other, q: other.bare.worldView(frame), cells: cellsOf(other, frame) }))
  cover.below = Array.from(shape.rim, (v, n) => {
    const x = p[v * 3]! + shape.out[n * 2]! * shape.step
    const z = p[v * 3 + 2]! + shape.out[n * 2 + 1]! * shape.step
    let best: { cover: Cover; vertex: number } | null = null
    let highest = -Infinity
    for (const { other, q, cells } of others) {
      const { step } = other.shape
      for (let cell = 0; cell < 9; cell++) {
        const [i, k] = [
          Math.floor(x / step) + (cell % 3) - 1,
          Math.floor(z / step) + Math.floor(cell / 3) - 1,
        ]
        for (const vertex of cells.get(`${i} ${k}`) ?? []) {
          const level = q[vertex * 3 + 1]!
          if (level > p[v * 3 + 1]! - 0.01 || level <= highest) continue
          if ((q[vertex * 3]! - x) ** 2 + (q[vertex * 3 + 2]! - z) ** 2 > step * step) continue
          highest = level
          best = { cover: other, vertex }
        }
      }
    }
    return best
  })
}

/** The ground's vertices by the square, a step wide, that they are in as seen from above. */
function cellsOf({ shape, bare }: Cover, frame: number): Map<string, number[]> {
  const p = bare.worldView(frame)
  const cells = new Map<string, number[]>()
  shape.area.forEach((area, v) => {
    if (area === 0) return
    const key = `${Math.floor(p[v * 3]! / shape.step)} ${Math.floor(p[v * 3 + 2]! / shape.step)}`
    const cell = cells.get(key)
    if (cell) cell.push(v)
    else cells.set(key, [v])
  })
  return cells
}

/** The cover as a closed mesh of its own, in the world. */
export function coverMesh({ shape, bare, heights }: Cover, frame: number): MeshFrame {
  const mesh = coverOver(shape, bare.mesh.triangles, bare.worldView(frame), heights, LEAST)
  return { id: coverId(bare.shotMesh.id), ...mesh }
}

export function measureCover({ shape: { area }, bare, heights }: Cover): CoverMeasures {
  let [volume, deepest] = [0, 0]
  for (let v = 0; v < heights.length; v++) {
    volume += heights[v]! * area[v]!
    deepest = Math.max(deepest, heights[v]!)
  }
  return { id: bare.shotMesh.id, volume, deepest }
}
