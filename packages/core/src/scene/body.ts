import type { Machine } from '@tangle/kernels'
import { areaAbove } from '../geometry/clip.ts'
import { buildField } from '../geometry/field.ts'
import {
  cornersOf,
  isClosed,
  meshFacts,
  turnedOver,
  vertexNormals,
  type Mesh,
  type MeshFacts,
  type MeshMotion,
} from '../geometry/mesh.ts'
import { placeVertices } from '../geometry/meshMotion.ts'
import { buildTree, freeTree, refitTree, type Tree } from '../geometry/tree.ts'
import { seedFrom } from '../math/random.ts'
import { affine, inverse, length, type Affine, type Vector } from '../math/vector.ts'
import { valuesAt, vectorAt } from '../document/keys.ts'
import type { Deformation, Place, Shot, ShotMesh } from '../document/types.ts'
import { createBlocks, type Blocks } from './blocks.ts'
import type { DeformationKind } from './deformation.ts'

/**
 * A mesh of the shot at work: where its vertices are at a moment, and what can be asked of its surface. Everything is
 * made when it is first asked for and kept for that moment.
 */
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
  /** Corners of the triangles in an order that faces outward in the world: turned over where a place mirrors the mesh. Also as a pointer. */
  readonly outward: Uint32Array
  outwardTriangles(): number
  placeAt(frame: number): Affine
  sizeAt(frame: number): Vector
  /** That at the first frame: what is made of it is made in this size. */
  readonly size: Vector
  /** Positions at rest in world size, in the mesh's own frame, as a view and as a pointer; and their area, m². */
  sizedAt(frame: number): Float32Array
  sizedPointerAt(frame: number): number
  areaAt(frame: number): number
  /** Pointer to the vertices in the world at a frame, 3 × f32; valid until two other frames were asked. */
  worldAt(frame: number): number
  /** The same as a view. */
  worldView(frame: number): Float32Array
  /** Normals of the vertices in the world at a frame, 3 × f32. */
  worldNormals(frame: number): Float32Array
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
  /** Its pieces are where particles are (posedBody.ts). */
  readonly posed?: true
  /** Farthest way that one of its vertices goes between two frames, metres. */
  swing(from: number, to: number): number
  dispose(): void
}

/** Whether a place mirrors it, so that its triangles count the other way round. */
export const isMirrored = ({ outward, mesh }: Pick<Body, 'outward' | 'mesh'>): boolean =>
  outward !== mesh.triangles

/** How far it is across a body at rest, in the size of the first frame, m. */
export const diagonalOf = ({ facts: { low, high }, size }: Body): number =>
  length(size.map((s, axis) => s * (high[axis]! - low[axis]!)) as Vector)

export const placeAt = (place: Place, frame: number): Affine =>
  affine(vectorAt(place.position, frame), vectorAt(place.rotation, frame), vectorAt(place.scale, frame))

/** Whether a mesh moves, whether its surface does by itself, and whether it keeps its shape. */
export function motionOf(
  { place, deform }: ShotMesh,
  mesh: Pick<Mesh, 'motion'>,
): { moves: boolean; deforms: boolean; rigid: boolean } {
  const isStill = (part: keyof Place): boolean => place[part].every((c) => typeof c === 'number')
  const deforms = mesh.motion !== undefined || deform.some((one) => !one.muted)
  const rigid = !deforms && isStill('scale')
  return { deforms, rigid, moves: !rigid || !isStill('position') || !isStill('rotation') }
}

/** What the parts of a body are made from. */
interface Makings {
  machine: Machine
  shot: Shot
  shotMesh: ShotMesh
  mesh: Mesh
  /** Vertices. */
  count: number
  kinds: DeformationKind[]
  blocks: Blocks
  outward: Uint32Array
  moves: boolean
  rigid: boolean
}

export function createBody(
  machine: Machine,
  shot: Shot,
  shotMesh: ShotMesh,
  number: number,
  mesh: Mesh,
  kinds: DeformationKind[],
): Body {
  const { heap } = machine
  const { place } = shotMesh
  const count = mesh.positions.length / 3
  const blocks = createBlocks(heap)
  const { deforms, rigid, moves } = motionOf(shotMesh, mesh)
  const size = vectorAt(place.scale, shot.frames.first)
  // a set of points has nothing that faces anywhere
  const mirrors = mesh.triangles.length > 0 && size[0] * size[1] * size[2] < 0
  const outward = mirrors ? turnedOver(mesh.triangles) : mesh.triangles
  const makings: Makings = { machine, shot, shotMesh, mesh, count, kinds, blocks, outward, moves, rigid }
  const sizedAt = createSizes(makings)
  const momentAt = createMoments(makings)
  const worldView = (frame: number) => heap.f32(momentAt(frame).world, count * 3)
  const trees = createTrees(
    makings,
    worldView,
    (frame) => momentAt(frame).world,
    (frame) => sizedAt(frame).positions,
  )

  const cornersIn = (name: string, corners: ArrayLike<number> & { byteLength: number }): number =>
    blocks.of(name, corners.byteLength, (p) => heap.u32(p, corners.length).set(corners))

  return {
    shotMesh,
    number,
    mesh,
    facts: meshFacts(mesh),
    moves,
    deforms,
    rigid,
    normals: () => vertexNormals(mesh),
    triangles: () => cornersIn('triangles', cornersOf(mesh)),
    outward,
    outwardTriangles: () =>
      mirrors ? cornersIn('outward', outward) : cornersIn('triangles', cornersOf(mesh)),
    uvs: () =>
      mesh.uvs
        ? blocks.of('uvs', mesh.uvs.byteLength, (p) => heap.f32(p, mesh.uvs!.length).set(mesh.uvs!))
        : 0,
    placeAt: (frame) => placeAt(place, frame),
    sizeAt: (frame) => vectorAt(place.scale, frame),
    size,
    sizedAt: (frame) => sizedAt(frame).positions,
    sizedPointerAt: (frame) => sizedAt(frame).pointer,
    areaAt: (frame) => sizedAt(frame).area,
    worldAt: (frame) => momentAt(frame).world,
    worldView,
    worldNormals: createNormals(makings, worldView),
    mapAt: (frame) => momentAt(frame).map,
    swing: (from, to) => (moves ? farthestMove(worldView(from), worldView(to)) : 0),
    ...trees,
    dispose() {
      trees.dispose()
      blocks.dispose()
    },
  }
}

/** Normals in the world; those of a mesh that stands still are found once. */
function createNormals(
  { shot, outward: triangles, moves }: Makings,
  worldView: (frame: number) => Float32Array,
) {
  const normalsAt = (frame: number) => vertexNormals({ positions: worldView(frame).slice(), triangles })
  let still: Float32Array | undefined
  return (frame: number): Float32Array =>
    moves ? normalsAt(frame) : (still ??= normalsAt(shot.frames.first))
}

/** Greatest distance between points of the same number. */
function farthestMove(a: Float32Array, b: Float32Array): number {
  let most = 0
  for (let k = 0; k < a.length; k += 3) {
    const squared = (a[k]! - b[k]!) ** 2 + (a[k + 1]! - b[k + 1]!) ** 2 + (a[k + 2]! - b[k + 2]!) ** 2
    if (squared > most) most = squared
  }
  return Math.sqrt(most)
}

/** Vertices in world size but the mesh's own frame, and their area. */
function createSizes({ machine, shotMesh, mesh, count, blocks }: Makings) {
  let sized: { key: string; pointer: number; positions: Float32Array; area: number } | undefined
  return (frame: number) => {
    const size = vectorAt(shotMesh.place.scale, frame)
    const key = size.join()
    if (sized?.key !== key) {
      const pointer = blocks.of('sized', count * 12)
      const positions = machine.heap.f32(pointer, count * 3)
      for (let i = 0; i < positions.length; i++) positions[i] = mesh.positions[i]! * size[i % 3]!
      const area = areaAbove(positions, mesh.triangles, new Float32Array(count), 0)
      sized = { key, pointer, positions, area }
    }
    return sized
  }
}

/** Two moments are kept: a substep looks at its start and its end. */
const MOMENTS = 2

interface Moment {
  frame: number
  /** Pointers: vertices in the world, and the map that took them there. */
  world: number
  map: number
  /** When it was last asked for. */
  turn: number
}

/** Where the vertices are at a frame: deformed, then placed. */
function createMoments(makings: Makings): (frame: number) => Moment {
  const { machine, shot, shotMesh, count, blocks, moves } = makings
  const moments: Moment[] = []
  let turns = 0
  function newMoment(): Moment {
    const name = `moment ${moments.length}`
    const moment = {
      frame: NaN,
      world: blocks.of(name, count * 12),
      map: blocks.of(`${name} map`, 96),
      turn: 0,
    }
    moments.push(moment)
    return moment
  }
  return (frame) => {
    const now = moves ? frame : shot.frames.first
    let moment = moments.find((one) => one.frame === now)
    if (!moment) {
      moment = moments.length < MOMENTS ? newMoment() : moments.reduce((a, b) => (a.turn < b.turn ? a : b))
      moment.frame = now
      machine.heap.f64(moment.map, 12).set(placeAt(shotMesh.place, now))
      machine.run('transformPoints', count, {
        points: localPoints(makings, now),
        out: moment.world,
        map: moment.map,
      })
    }
    moment.turn = ++turns
    return moment
  }
}

/** The sample of a mesh's own motion at a frame. */
function sampleAt({ shot, shotMesh }: Makings, { rate, count }: MeshMotion, frame: number): number {
  const { delay, speed, after } = shotMesh.playback
  const frames = (frame - shot.frames.first - delay) * speed
  const sample = rate === null ? frames : (frames / shot.frames.rate) * rate
  const last = count - 1
  return after === 'repeat' && sample > last ? sample % last : sample
}

/** Pointer to the vertices in the mesh's own space, moved as in the file and deformed. */
function localPoints(makings: Makings, frame: number): number {
  const { machine, shotMesh, mesh, count, blocks } = makings
  const { heap } = machine
  const rest = blocks.of('rest', count * 12, (p) => heap.f32(p, count * 3).set(mesh.positions))
  const active = shotMesh.deform.filter((one) => !one.muted)
  if (active.length === 0 && !mesh.motion) return rest
  const local = blocks.of('local', count * 12)
  if (mesh.motion) placeVertices(machine, mesh, sampleAt(makings, mesh.motion, frame), blocks.of, local)
  else heap.f32(local, count * 3).set(mesh.positions)
  for (const one of active) deform(makings, one, frame, local, rest)
  return local
}

function deform(makings: Makings, one: Deformation, frame: number, points: number, rest: number): void {
  const { machine, shot, shotMesh, mesh, count, kinds, blocks } = makings
  const { first, rate } = shot.frames
  // the schema knows no other kinds
  const kind = kinds.find((k) => k.kind === one.kind)!
  const size = vectorAt(shotMesh.place.scale, frame)
  kind.deform(valuesAt(kind.parameters, one, frame), {
    machine,
    count,
    points,
    rest,
    normals: blocks.of('normals', count * 12, (p) => machine.heap.f32(p, count * 3).set(vertexNormals(mesh))),
    time: (frame - first) / rate,
    seed: seedFrom(shot.seed, `${shotMesh.id} ${one.id}`),
    scale: Math.max(1e-9, (Math.abs(size[0]) + Math.abs(size[1]) + Math.abs(size[2])) / 3),
    scratch: (bytes) => blocks.of(`scratch ${one.id}`, bytes),
  })
}

/** The trees over the mesh: at rest, for a place that only moves and turns, and fitted to a moment. */
function createTrees(
  { machine, shot, shotMesh, mesh, blocks, outward, rigid }: Makings,
  worldView: (frame: number) => Float32Array,
  worldAt: (frame: number) => number,
  sizedAt: (frame: number) => Float32Array,
) {
  const { heap } = machine
  const { place } = shotMesh
  const { first } = shot.frames
  let rest: Tree | undefined
  let fitted: { frame: number; tree: Tree } | undefined
  let still: Tree | undefined
  const rigidTree = (): Tree =>
    (still ??= buildTree(machine, { positions: sizedAt(first), triangles: outward }))
  function fittedTree(frame: number): Tree {
    // its branches are those of the first frame, whenever it is first asked: which of several triangles that are as
    // near is found depends on them, and may not depend on where a computation was taken up
    fitted ??= {
      frame: first,
      tree: buildTree(machine, { positions: worldView(first).slice(), triangles: outward }),
    }
    if (fitted.frame !== frame) {
      refitTree(machine, fitted.tree, worldAt(frame))
      fitted.frame = frame
    }
    return fitted.tree
  }
  return {
    restTree: () => (rest ??= buildTree(machine, mesh)),
    treeAt(frame: number): { tree: Tree; into: Affine | null } {
      if (!rigid) return { tree: fittedTree(frame), into: null }
      const turnOnly = affine(vectorAt(place.position, frame), vectorAt(place.rotation, frame), [1, 1, 1])
      return { tree: rigidTree(), into: inverse(turnOnly) }
    },
    fieldAt: () =>
      rigid
        ? blocks.once('field', () =>
            buildField(machine, rigidTree(), sizedAt(first), isClosed(meshFacts(mesh))),
          )
        : 0,
    dispose() {
      for (const tree of [rest, still, fitted?.tree]) if (tree) freeTree(heap, tree)
    },
  }
}
