/**
 * Stage 1, meshes move. A body is a mesh of the shot at work: where its vertices are at a moment, and what
 * can be asked of its surface. Everything is made when first asked for and kept for that moment.
 */
import type { Machine } from '@tangle/kernels'
import { areaAbove } from '../geometry/clip.ts'
import { DEFORMATIONS } from '../deformations/index.ts'
import { buildField } from '../geometry/field.ts'
import { meshFacts, vertexNormals, type Mesh, type MeshFacts } from '../geometry/mesh.ts'
import { automaticDetail, refine } from '../geometry/refine.ts'
import { buildTree, freeTree, refitTree, type Tree } from '../geometry/tree.ts'
import { seedFrom } from '../math/random.ts'
import { affine, inverse, type Affine, type Vector } from '../math/vector.ts'
import { valuesAt, vectorAt } from '../document/keys.ts'
import type { Deformation, Place, Shot, ShotMesh } from '../document/types.ts'

export interface Body {
  shotMesh: ShotMesh
  /** From 1; 0 is no body. */
  number: number
  /** With the detail that the shot asks for. */
  mesh: Mesh
  facts: MeshFacts
  normals(): Float32Array
  /** Of the mesh at rest, in its own space. */
  restTree(): Tree
  /** Pointers into the heap: 3 × u32 per triangle, and its texture coordinates, 6 × f32 (0: it has none). */
  triangles(): number
  uvs(): number
  placeAt(frame: number): Affine
  sizeAt(frame: number): Vector
  /** Positions at rest in world size, in the mesh's own frame; and their area, m². */
  sizedAt(frame: number): Float32Array
  areaAt(frame: number): number
  /** Pointer to the vertices in the world at a frame, 3 × f32; valid until two other frames were asked. */
  worldAt(frame: number): number
  /** The same as a view. */
  worldView(frame: number): Float32Array
  /** Pointer to the map into the world at a frame, 12 f64; valid as long. */
  mapAt(frame: number): number
  /** A tree to ask for closest points at a frame, and the rigid map that takes a world point into it. */
  treeAt(frame: number): { tree: Tree; into: Affine | null }
  /** Pointer to a field of distances in the frame of its tree; 0 where its surface does not keep its shape. */
  fieldAt(frame: number): number
  readonly moves: boolean
  readonly deforms: boolean
  /** It moves and turns only. */
  readonly rigid: boolean
  /** Farthest way that one of its vertices goes between two frames, metres. */
  swing(from: number, to: number): number
  dispose(): void
}

export const placeAt = (place: Place, frame: number): Affine =>
  affine(vectorAt(place.position, frame), vectorAt(place.rotation, frame), vectorAt(place.scale, frame))

/** Key of the mesh that a source names, in the map of meshes that a simulation is given. */
export function sourceKey(source: ShotMesh['source']): string {
  if ('asset' in source) return source.asset
  return 'file' in source ? source.file : `text:${JSON.stringify(source.text)}`
}

export class MissingMesh extends Error {
  readonly code = 'missing-mesh'
  constructor(name: string, asset: string) {
    super(`The mesh "${name}" (${asset}) is not stored here: add its file again`)
  }
}

const refined = new WeakMap<Mesh, Map<string, Mesh>>()

/** The mesh with the detail that the shot asks for; "auto" splits when `needed`. */
export function workingMesh(shotMesh: ShotMesh, mesh: Mesh, firstFrame: number, needed: boolean): Mesh {
  if (shotMesh.detail === 'auto' && !needed) return mesh
  const scale = vectorAt(shotMesh.place.scale, firstFrame)
  const facts = meshFacts(mesh)
  const size = scale.map((s, axis) => (facts.high[axis]! - facts.low[axis]!) * Math.abs(s)) as Vector
  const mean = (Math.abs(scale[0]) + Math.abs(scale[1]) + Math.abs(scale[2])) / 3
  const diagonal = Math.sqrt(size[0] ** 2 + size[1] ** 2 + size[2] ** 2)
  const longest =
    shotMesh.detail === 'auto' ? automaticDetail(facts.area * mean * mean, diagonal) : shotMesh.detail
  const key = `${longest} ${scale.join()}`
  const known = refined.get(mesh) ?? new Map<string, Mesh>()
  refined.set(mesh, known)
  const found = known.get(key) ?? refine(mesh, longest, scale)
  known.set(key, found)
  return found
}

/** Ids of the meshes whose surface carries a mask's values: they need triangles that are fine enough. */
export function meshesWithSurfaceMasks(shot: Shot): Set<string> {
  const needed = new Set<string>()
  for (const mask of shot.masks) {
    if (['spread', 'painted', 'uv'].includes(mask.kind) && typeof mask.mesh === 'string')
      needed.add(mask.mesh)
  }
  for (const mesh of shot.meshes) if (mesh.eaten) needed.add(mesh.id)
  for (const { births } of shot.populations) {
    for (const birth of births) if ('swept' in birth.amount || birth.density) needed.add(birth.mesh)
  }
  return needed
}

/** Bodies of the meshes with these ids. `meshes` are by `sourceKey`, welded; "auto" splits those in `fine`. */
export function createBodies(
  machine: Machine,
  shot: Shot,
  meshes: Map<string, Mesh>,
  ids: Set<string>,
  fine = meshesWithSurfaceMasks(shot),
): Map<string, Body> {
  const bodies = new Map<string, Body>()
  shot.meshes.forEach((shotMesh, i) => {
    if (!ids.has(shotMesh.id)) return
    const key = sourceKey(shotMesh.source)
    const mesh = meshes.get(key)
    if (!mesh) throw new MissingMesh(shotMesh.name, key)
    const working = workingMesh(shotMesh, mesh, shot.frames.first, fine.has(shotMesh.id))
    bodies.set(shotMesh.id, createBody(machine, shot, shotMesh, i + 1, working))
  })
  return bodies
}

/** Two moments are kept: a substep looks at its start and its end. */
const MOMENTS = 2

interface Moment {
  frame: number
  world: number
  map: number
  /** When it was last asked for. */
  turn: number
}

export function createBody(
  machine: Machine,
  shot: Shot,
  shotMesh: ShotMesh,
  number: number,
  mesh: Mesh,
): Body {
  const { heap } = machine
  const { first, rate } = shot.frames
  const { place } = shotMesh
  const count = mesh.positions.length / 3
  const acting = shotMesh.deform.filter((one) => !one.muted)
  const blocks = new Map<string, number>()
  const moments: Moment[] = []
  let turns = 0
  let rest: Tree | undefined
  let fitted: { frame: number; tree: Tree } | undefined
  let still: Tree | undefined
  const isStill = (part: keyof Place): boolean => place[part].every((c) => typeof c === 'number')
  const rigid = acting.length === 0 && isStill('scale')
  const moves = !rigid || !isStill('position') || !isStill('rotation')

  const block = (name: string, bytes: number, fill?: (pointer: number) => void): number => {
    let pointer = blocks.get(name)
    if (pointer === undefined) {
      pointer = heap.allocate(bytes)
      blocks.set(name, pointer)
      fill?.(pointer)
    }
    return pointer
  }
  const keep = (name: string, pointer: number): number => {
    blocks.set(name, pointer)
    return pointer
  }
  const restPoints = (): number =>
    block('rest', count * 12, (p) => heap.f32(p, count * 3).set(mesh.positions))
  const restNormals = (): number =>
    block('normals', count * 12, (p) => heap.f32(p, count * 3).set(vertexNormals(mesh)))

  /** Vertices in the mesh's own space, deformed. */
  function localAt(frame: number): number {
    if (acting.length === 0) return restPoints()
    const local = block('local', count * 12)
    heap.f32(local, count * 3).set(mesh.positions)
    for (const one of acting) deform(one, frame, local)
    return local
  }
  function deform(one: Deformation, frame: number, points: number): void {
    const kind = DEFORMATIONS.find((k) => k.kind === one.kind)!
    const size = vectorAt(place.scale, frame)
    kind.deform(valuesAt(kind.parameters, one, frame), {
      machine,
      count,
      points,
      rest: restPoints(),
      normals: restNormals(),
      time: (frame - first) / rate,
      seed: seedFrom(shot.seed, `${shotMesh.id} ${one.id}`),
      scale: Math.max(1e-9, (Math.abs(size[0]) + Math.abs(size[1]) + Math.abs(size[2])) / 3),
      scratch: (bytes) => block(`scratch ${one.id}`, bytes),
    })
  }

  let sized: { key: string; positions: Float32Array; area: number } | undefined
  function sizedAt(frame: number) {
    const size = vectorAt(place.scale, frame)
    const key = size.join()
    if (sized?.key !== key) {
      const positions = mesh.positions.map((x, i) => x * size[i % 3]!)
      const area = areaAbove(positions, mesh.triangles, new Float32Array(count), 0)
      sized = { key, positions, area }
    }
    return sized
  }

  function momentAt(frame: number): Moment {
    const now = moves ? frame : first
    let moment = moments.find((one) => one.frame === now)
    if (!moment) {
      moment = moments.length < MOMENTS ? newMoment() : moments.reduce((a, b) => (a.turn < b.turn ? a : b))
      moment.frame = now
      heap.f64(moment.map, 12).set(placeAt(place, now))
      machine.run('transformPoints', count, localAt(now), moment.world, moment.map)
    }
    moment.turn = ++turns
    return moment
  }
  function newMoment(): Moment {
    const name = `moment ${moments.length}`
    const moment = { frame: NaN, world: block(name, count * 12), map: block(`${name} map`, 96), turn: 0 }
    moments.push(moment)
    return moment
  }

  /** A tree over the mesh in world size but its own frame, for a place that only moves and turns. */
  function rigidTree(): Tree {
    if (!still) {
      still = buildTree(heap, { positions: sizedAt(first).positions, triangles: mesh.triangles })
    }
    return still
  }
  function fittedTree(frame: number): Tree {
    const points = heap.f32(momentAt(frame).world, count * 3)
    if (!fitted)
      fitted = { frame, tree: buildTree(heap, { positions: points.slice(), triangles: mesh.triangles }) }
    else if (fitted.frame !== frame) {
      refitTree(heap, fitted.tree, points, mesh.triangles)
      fitted.frame = frame
    }
    return fitted.tree
  }

  return {
    shotMesh,
    number,
    mesh,
    facts: meshFacts(mesh),
    moves,
    deforms: acting.length > 0,
    rigid,
    swing(from, to) {
      const [a, b] = [heap.f32(momentAt(from).world, count * 3), heap.f32(momentAt(to).world, count * 3)]
      let most = 0
      for (let k = 0; k < a.length; k += 3) {
        const squared = (a[k]! - b[k]!) ** 2 + (a[k + 1]! - b[k + 1]!) ** 2 + (a[k + 2]! - b[k + 2]!) ** 2
        if (squared > most) most = squared
      }
      return Math.sqrt(most)
    },
    normals: () => vertexNormals(mesh),
    restTree: () => (rest ??= buildTree(heap, mesh)),
    triangles: () =>
      block('triangles', mesh.triangles.byteLength, (p) =>
        heap.u32(p, mesh.triangles.length).set(mesh.triangles),
      ),
    uvs: () =>
      mesh.uvs ? block('uvs', mesh.uvs.byteLength, (p) => heap.f32(p, mesh.uvs!.length).set(mesh.uvs!)) : 0,
    placeAt: (frame) => placeAt(place, frame),
    sizeAt: (frame) => vectorAt(place.scale, frame),
    sizedAt: (frame) => sizedAt(frame).positions,
    areaAt: (frame) => sizedAt(frame).area,
    worldAt: (frame) => momentAt(frame).world,
    worldView: (frame) => heap.f32(momentAt(frame).world, count * 3),
    mapAt: (frame) => momentAt(frame).map,
    treeAt(frame) {
      if (!rigid) return { tree: fittedTree(frame), into: null }
      const turnOnly = affine(vectorAt(place.position, frame), vectorAt(place.rotation, frame), [1, 1, 1])
      return { tree: rigidTree(), into: inverse(turnOnly) }
    },
    fieldAt: () =>
      rigid
        ? (blocks.get('field') ?? keep('field', buildField(machine, rigidTree(), sizedAt(first).positions)))
        : 0,
    dispose() {
      for (const tree of [rest, still, fitted?.tree]) if (tree) freeTree(heap, tree)
      for (const pointer of blocks.values()) heap.free(pointer)
    },
  }
}
