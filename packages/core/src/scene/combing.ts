/** Directions of a combing at the vertices of its mesh: what they start as, what strokes make of them, and smoothing. */
import { TABLE_BYTES, writeGradients } from '../math/gradients.ts'
import type { Machine } from '@tangle/kernels'
import { forEachUnderBrush } from '../geometry/brush.ts'
import { flattened, smoothDirections, smoothNumbers } from '../geometry/connection.ts'
import { turnedCorners, vertexNormals, type Mesh } from '../geometry/mesh.ts'
import { cosine, radians, sine } from '../math/functions.ts'
import { seedFrom } from '../math/random.ts'
import {
  add,
  affine,
  cross,
  inverse,
  length,
  scale,
  subtract,
  transform,
  unit,
  vectorOf,
  writeVector,
  type Vector,
} from '../math/vector.ts'
import { vectorAt } from '../document/keys.ts'
import { placesOf, strengthAt, type Stroke } from '../document/parameters.ts'
import type { Combing, Shot } from '../document/types.ts'
import { isMirrored, type Body } from './body.ts'

/** Directions along the surface, of unit length or none, 3 numbers a vertex, and how far they rise off it, radians. */
interface Field {
  along: Float64Array
  lift: Float64Array
}

/** A direction of unit length, however short it was: meshes may be smaller than a millimetre. None stays none. */
function wayOf(direction: Vector): Vector {
  const size = length(direction)
  return size > 0 ? scale(direction, 1 / size) : [0, 0, 0]
}

/** The mesh in world size, in its own frame: directions are combed on it at rest. */
const sized = new WeakMap<Mesh, Mesh>()
export function sizedMesh(body: Body, first: number): Mesh {
  const { mesh, outward, sizedAt } = body
  const known = sized.get(mesh)
  const positions = sizedAt(first)
  if (known?.positions.every((x, k) => x === positions[k])) return known
  const { uvs } = mesh
  // normals lead outward also where it is mirrored
  const made = { positions: positions.slice(), triangles: outward, ...(uvs && { uvs: isMirrored(body) ? turnedCorners(uvs, 2) : uvs }) } // prettier-ignore
  sized.set(mesh, made)
  return made
}
/** Unit directions (3 × f32 a vertex) in the mesh's own frame; 0 where there are none. */
export function combedDirections(machine: Machine, shot: Shot, body: Body, combing: Combing): Float32Array {
  const mesh = sizedMesh(body, shot.frames.first)
  const { strokes: _, smooth: __, ...first } = combing
  const key = JSON.stringify([first, body.shotMesh.place, shot.seed, shot.frames.first])
  const found = started.get(mesh)
  const start = found?.key === key ? found.field : startOf(machine, shot, body, mesh, combing)
  started.set(mesh, { key, field: start })
  const field = combed(mesh, body.size, start, combing)
  const normals = vertexNormals(mesh)
  const out = new Float32Array(mesh.positions.length)
  for (let v = 0; v < field.lift.length; v++) {
    const way = vectorOf(field.along, v)
    if (length(way) === 0) continue
    const lift = field.lift[v]!
    writeVector(out, v, add(scale(way, cosine(lift)), scale(vectorOf(normals, v), sine(lift))))
  }
  return out
}

/** What a mesh was last combed from. */
const started = new WeakMap<Mesh, { key: string; field: Field }>()

/** The field before it is combed. */
function startOf(machine: Machine, shot: Shot, body: Body, mesh: Mesh, combing: Combing): Field {
  const raw = STARTS[combing.start]!(mesh, combing, { machine, shot, body })
  const normals = vertexNormals(mesh)
  const turn = radians(combing.turn)
  const [c, s] = [cosine(turn), sine(turn)]
  const along = new Float64Array(raw.length)
  for (let v = 0; v < raw.length / 3; v++) {
    const normal = vectorOf(normals, v)
    const way = wayOf(flattened(vectorOf(raw, v), normal))
    writeVector(along, v, add(scale(way, c), scale(cross(normal, way), s)))
  }
  return { along, lift: new Float64Array(raw.length / 3).fill(radians(combing.lift)) }
}

type Start = (
  mesh: Mesh,
  combing: Combing,
  around: { machine: Machine; shot: Shot; body: Body },
) => Float64Array

/** Directions to start from, by the word that the document has for them; they are laid onto the surface afterwards. */
const STARTS: Record<string, Start> = {
  u: (mesh) => alongTexture(mesh, 0),
  v: (mesh) => alongTexture(mesh, 1),
  direction: (mesh, { direction }, around) => everywhere(mesh, ownDirection(around, direction)),
  slope: (mesh, _, around) => everywhere(mesh, ownDirection(around, [0, -1, 0])),
  noise: swirls,
  away(mesh, { point }, around) {
    const from = transform(inverse(standing(around)), point)
    const out = new Float64Array(mesh.positions.length)
    for (let v = 0; v < out.length / 3; v++)
      writeVector(out, v, wayOf(subtract(vectorOf(mesh.positions, v), from)))
    return out
  },
}

const everywhere = (mesh: Mesh, direction: Vector): Float64Array =>
  Float64Array.from(mesh.positions, (_, k) => direction[k % 3]!)

/** The turn and the place of a mesh at the first frame, without its size. */
function standing({ shot, body }: { shot: Shot; body: Body }) {
  const { position, rotation } = body.shotMesh.place
  const { first } = shot.frames
  return affine(vectorAt(position, first), vectorAt(rotation, first), [1, 1, 1])
}
function ownDirection(around: { shot: Shot; body: Body }, direction: Vector): Vector {
  const back = inverse(standing(around))
  return unit(subtract(transform(back, direction), transform(back, [0, 0, 0])))
}

/**
 * Along U (0) or V (1): the mean over the triangles around a vertex, by their areas. With the edges e, f of a triangle and their
 * (u, v): ∂P/∂u = (e·v_f − f·v_e)/(u_e·v_f − u_f·v_e).
 */
function alongTexture({ positions, triangles, uvs }: Mesh, axis: 0 | 1): Float64Array {
  const out = new Float64Array(positions.length)
  for (let t = 0; uvs && t < triangles.length / 3; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => triangles[t * 3 + k]!) as Vector
    const [ue, ve, uf, vf] = [2, 3, 4, 5].map((k) => uvs[t * 6 + k]! - uvs[t * 6 + (k % 2)]!) as [number, number, number, number] // prettier-ignore
    const turn = ue * vf - uf * ve < 0 ? -1 : 1
    const [alongE, alongF] = axis === 0 ? [turn * vf, -turn * ve] : [-turn * uf, turn * ue]
    const [e, f] = [b, c].map((k) => subtract(vectorOf(positions, k), vectorOf(positions, a))) as [Vector, Vector] // prettier-ignore
    const way = wayOf(add(scale(e, alongE), scale(f, alongF)))
    addAround(out, [a, b, c], scale(way, length(cross(e, f))))
  }
  return out
}

/**
 * Curl noise on the surface: n × ∇ψ of a noise ψ, which has no sources (Bridson, Houriham, Nordenstam 2007). With ψ linear on a
 * triangle and e_k its edges opposite to the corners, 2A·(n × ∇ψ) = −Σ ψ_k·e_k.
 */
function swirls(
  mesh: Mesh,
  combing: Combing,
  { machine, shot }: { machine: Machine; shot: Shot },
): Float64Array {
  const { heap } = machine
  const count = mesh.positions.length / 3
  const [points, values, tables] = [count * 12 + 16, count * 4 + 16, TABLE_BYTES].map((bytes) =>
    heap.allocate(bytes),
  ) as Vector
  heap.f32(points, count * 3).set(mesh.positions)
  writeGradients(heap, tables, seedFrom(shot.seed, combing.id), 0)
  machine.run('noiseAt', count, { points, out: values, tables, tableBytes: TABLE_BYTES, octaves: 1, frequency: 1 / combing.scale }) // prettier-ignore
  const noise = heap.f32(values, count)
  const out = new Float64Array(count * 3)
  for (let t = 0; t < mesh.triangles.length / 3; t++) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[t * 3 + k]!) as Vector
    const places = corners.map((v) => vectorOf(mesh.positions, v))
    const parts = places.map((_, k) =>
      scale(subtract(places[(k + 2) % 3]!, places[(k + 1) % 3]!), -noise[corners[k]!]!),
    )
    addAround(out, corners, add(add(parts[0]!, parts[1]!), parts[2]!))
  }
  ;[points, values, tables].forEach((pointer) => heap.free(pointer))
  return out
}

function addAround(out: Float64Array, corners: number[], way: Vector): void {
  for (const v of corners) writeVector(out, v, add(vectorOf(out, v), way))
}

/** What strokes had made of a field: a stroke that grows under the brush begins where those before it ended. */
const known = new WeakMap<Mesh, { start: Field; key: string; field: Field }>()

function combed(mesh: Mesh, size: Vector, start: Field, combing: Combing): Field {
  const { strokes, smooth } = combing
  const keyOf = (done: number): string => JSON.stringify(strokes.slice(0, done))
  const before = known.get(mesh)
  const last = Math.max(0, strokes.length - 1)
  let field = start
  let done = 0
  if (before?.start === start && before.key === keyOf(last)) {
    field = before.field
    done = last
  }
  for (; done < strokes.length; done++) {
    if (done === last) known.set(mesh, { start, key: keyOf(last), field })
    field = stroked(mesh, size, field, start, strokes[done]!)
  }
  if (smooth === 0) return field
  return {
    along: units(smoothDirections(mesh, field.along, smooth)),
    lift: smoothNumbers(mesh, field.lift, smooth),
  }
}

/** Directions of unit length; what is much shorter than 1 came from nowhere and is none. */
function units(directions: Float64Array): Float64Array {
  const out = new Float64Array(directions.length)
  for (let v = 0; v < out.length / 3; v++) {
    const way = vectorOf(directions, v)
    if (length(way) > NOWHERE) writeVector(out, v, unit(way))
  }
  return out
}
const NOWHERE = 1e-6

/** Places of a stroke lie at most this part of the radius apart, unless that were more than so many. */
const SPACING = 0.25
const MOST_PLACES = 100_000

/** The places of a stroke and which way the brush went there, in the frame of the sized mesh. */
function pathOf(stroke: Stroke, size: Vector): { places: Vector[]; ways: Vector[]; strengths: number[] } {
  const places: Vector[] = []
  const strengths: number[] = []
  const ways: Vector[] = []
  const both = placesOf(stroke).map((point) => point.map((x, k) => x * size[k]!) as Vector)
  const { length: count } = stroke.points
  const far = both.reduce((sum, point, k) => sum + (k > 0 ? length(subtract(point, both[k - 1]!)) : 0), 0)
  const spacing = Math.max(SPACING * stroke.radius, far / MOST_PLACES)
  for (let from = 0; from < both.length; from += count) {
    const line = both.slice(from, from + count)
    line.forEach((point, k) => {
      const [here, next] = [line[Math.max(0, k - 1)]!, line[Math.min(count - 1, k + 1)]!]
      const [strong, after] = [strengthAt(stroke, k), strengthAt(stroke, Math.min(count - 1, k + 1))]
      places.push(point)
      strengths.push(strong)
      ways.push(wayOf(subtract(next, here)))
      const step = subtract(line[k + 1] ?? point, point)
      const parts = Math.ceil(length(step) / spacing)
      for (let part = 1; part < parts; part++) {
        places.push(add(point, scale(step, part / parts)))
        strengths.push(strong + (after - strong) * (part / parts))
        ways.push(wayOf(step))
      }
    })
  }
  return { places, ways, strengths }
}

/** A field after one more stroke. With the coverage c of the brush, each direction goes by c to what the stroke wants. */
function stroked(mesh: Mesh, size: Vector, field: Field, start: Field, stroke: Stroke): Field {
  const { places, ways, strengths } = pathOf(stroke, size)
  const normals = vertexNormals(mesh)
  const count = field.lift.length
  const coverage = new Float64Array(count)
  const brushed = new Float64Array(count * 3)
  forEachUnderBrush(mesh, places, stroke.radius, (v, reach, place) => {
    coverage[v] = Math.max(coverage[v]!, strengths[place]! * reach)
    writeVector(brushed, v, add(vectorOf(brushed, v), scale(ways[place]!, reach)))
  })
  const wanted = WANTED[stroke.brush]!(mesh, field, start, brushed, stroke)
  const [along, lift] = [field.along.slice(), field.lift.slice()]
  for (let v = 0; v < count; v++) {
    const c = coverage[v]!
    if (c === 0) continue
    const want = wayOf(flattened(vectorOf(wanted.along, v), vectorOf(normals, v)))
    const here = vectorOf(field.along, v)
    if (length(want) > 0) writeVector(along, v, unit(add(scale(here, 1 - c), scale(want, c)), want))
    lift[v] = field.lift[v]! + (wanted.lift[v]! - field.lift[v]!) * c
  }
  return { along, lift }
}

/** What each brush wants. */
const WANTED: Record<
  string,
  (mesh: Mesh, field: Field, start: Field, brushed: Float64Array, stroke: Stroke) => Field
> = {
  comb: (_, { lift }, __, brushed) => ({ along: brushed, lift }),
  straighten: (mesh, { along, lift }, _, __, { radius }) => ({
    along: smoothDirections(mesh, along, radius),
    lift: smoothNumbers(mesh, lift, radius),
  }),
  lift: (_, { along, lift }, __, ___, stroke) => ({
    along,
    lift: lift.map(() => radians(stroke.lift ?? 45)),
  }),
  erase: (_, __, start) => start,
}
