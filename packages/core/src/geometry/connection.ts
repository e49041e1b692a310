/**
 * Directions on a surface compared from vertex to vertex: a tangent direction is a complex number in a frame of its vertex, and the
 * way to a neighbour turns it as parallel transport does, by the shortest turn from the one normal to the other.
 *
 * Smoothing is one implicit step of the heat equation with that transport, (A + ℓ²·L)·x = A·v: A the areas of the vertices, L the
 * connection Laplacian with cotangent weights. Directions are averaged over about ℓ metres of the surface, the nearer the more.
 * Source: Sharp, Soliman, Crane, "The vector heat method" (2019), §3 and §5.3. Cotangents below 0 count as 0, so that L stays
 * positive on any triangles.
 */
import { cross, dot, scale, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'
import { neighbourhood } from './march.ts'
import { areaVector, perMesh, vertexNormals, type Mesh } from './mesh.ts'

interface Connection {
  /** Neighbours of vertex v stand at first[v] … first[v + 1]. */
  first: Uint32Array
  to: Uint32Array
  weight: Float64Array
  /** What turns a direction of the neighbour into one of the vertex: 2 numbers, real and imaginary. */
  turn: Float64Array
  /** A third of the triangles around, m². */
  area: Float64Array
  /** The frame of each vertex: 3 numbers each. */
  real: Float64Array
  imaginary: Float64Array
}

/** A direction of one tangent plane as one of another, by the shortest turn that takes the first unit normal to the second. */
export function transported(direction: Vector, from: Vector, to: Vector): Vector {
  const opposite = 1 + dot(from, to)
  if (opposite < 1e-9) return direction
  const along = dot(direction, to) / opposite
  return subtract(direction, [
    along * (from[0] + to[0]),
    along * (from[1] + to[1]),
    along * (from[2] + to[2]),
  ])
}

/** What a direction is of in the tangent plane of a unit normal. */
export const flattened = (direction: Vector, normal: Vector): Vector =>
  subtract(direction, scale(normal, dot(direction, normal)))

/** A unit direction across a normal: along the axis that leans least to it. */
function anyAcross(normal: Vector): Vector {
  const sizes = normal.map(Math.abs) as Vector
  const least = sizes.indexOf(Math.min(...sizes))
  return unit(flattened([0, 1, 2].map((axis) => (axis === least ? 1 : 0)) as Vector, normal))
}

const connectionOf = perMesh((mesh): Connection => {
  const { positions, triangles } = mesh
  const count = positions.length / 3
  const normals = vertexNormals(mesh)
  const { first: firstTriangle, around } = neighbourhood(mesh)
  const [real, imaginary] = [new Float64Array(count * 3), new Float64Array(count * 3)]
  for (let v = 0; v < count; v++) {
    const normal = vectorOf(normals, v)
    const across = anyAcross(normal)
    real.set(across, v * 3)
    imaginary.set(cross(normal, across), v * 3)
  }
  const area = new Float64Array(count)
  const first = new Uint32Array(count + 1)
  const [to, weight]: [number[], number[]] = [[], []]
  for (let v = 0; v < count; v++) {
    const row = to.length
    for (let n = firstTriangle[v]!; n < firstTriangle[v + 1]!; n++) {
      const t = around[n]!
      const twice = areaVector(mesh, t)
      const size = Math.sqrt(dot(twice, twice))
      area[v]! += size / 6
      const corners = [0, 1, 2].map((k) => triangles[t * 3 + k]!)
      for (const other of corners) {
        if (other === v) continue
        const apex = corners.find((one) => one !== v && one !== other)!
        const p = vectorOf(positions, apex)
        const cosine = dot(subtract(vectorOf(positions, v), p), subtract(vectorOf(positions, other), p))
        const known = to.indexOf(other, row)
        const slot = known < 0 ? to.push(other) - 1 : known
        weight[slot] = (weight[slot] ?? 0) + (size > 0 ? cosine / size / 2 : 0)
      }
    }
    first[v + 1] = to.length
  }
  const turn = new Float64Array(to.length * 2)
  for (let v = 0; v < count; v++) {
    for (let k = first[v]!; k < first[v + 1]!; k++) {
      const [here, there] = [vectorOf(normals, v), vectorOf(normals, to[k]!)]
      const turned = transported(vectorOf(real, to[k]!), there, here)
      turn[k * 2] = dot(turned, vectorOf(real, v))
      turn[k * 2 + 1] = dot(turned, vectorOf(imaginary, v))
      // where the surface folds over there is no shortest turn
      if (1 + dot(here, there) < 1e-6) weight[k] = 0
    }
  }
  const positive = Float64Array.from(weight, (w) => Math.max(0, w))
  return { first, to: Uint32Array.from(to), weight: positive, turn, area, real, imaginary }
})

/** Rounds of conjugate gradients at most, and the part of the residual at which they end. */
const ROUNDS = 500
const ACCURACY = 1e-4

/** Tangent directions (3 numbers a vertex, any length) averaged over so many metres of the surface of a mesh. */
export function smoothDirections(mesh: Mesh, directions: Float64Array, metres: number): Float64Array {
  const connection = connectionOf(mesh)
  const { real, imaginary, area } = connection
  const count = area.length
  const start = new Float64Array(count * 2)
  for (let v = 0; v < count; v++) {
    const direction = vectorOf(directions, v)
    start[v * 2] = dot(direction, vectorOf(real, v))
    start[v * 2 + 1] = dot(direction, vectorOf(imaginary, v))
  }
  const found = solved(connection, start, metres * metres)
  const out = new Float64Array(count * 3)
  for (let v = 0; v < count; v++)
    for (let axis = 0; axis < 3; axis++)
      out[v * 3 + axis] = found[v * 2]! * real[v * 3 + axis]! + found[v * 2 + 1]! * imaginary[v * 3 + axis]!
  return out
}

/** Numbers at vertices averaged alike: (A + ℓ²·L)·x = A·v with the plain Laplacian. */
export function smoothNumbers(mesh: Mesh, numbers: Float64Array, metres: number): Float64Array {
  if (numbers.every((value) => value === numbers[0])) return numbers
  const connection = connectionOf(mesh)
  const turn = connection.turn.map((_, k) => (k % 2 === 0 ? 1 : 0))
  const start = new Float64Array(numbers.length * 2)
  numbers.forEach((value, v) => (start[v * 2] = value))
  return solved({ ...connection, turn }, start, metres * metres).filter((_, k) => k % 2 === 0)
}

/** (A + t·L)⁻¹·A·v by conjugate gradients, scaled by the diagonal. */
function solved({ first, to, weight, turn, area }: Connection, v: Float64Array, t: number): Float64Array {
  const count = area.length
  const x = v.slice()
  const [residual, search, image] = [0, 0, 0].map(() => new Float64Array(count * 2)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ]
  const diagonal = new Float64Array(count)
  for (let i = 0; i < count; i++) {
    diagonal[i] = area[i]!
    for (let k = first[i]!; k < first[i + 1]!; k++) diagonal[i]! += t * weight[k]!
    // a vertex without triangles keeps what it has
    if (!(diagonal[i]! > 0)) diagonal[i] = 1
  }
  const couplings = turn.map((part, k) => t * weight[k >> 1]! * part)
  function apply(from: Float64Array, out: Float64Array): void {
    for (let i = 0; i < count; i++) {
      let re = diagonal[i]! * from[i * 2]!
      let im = diagonal[i]! * from[i * 2 + 1]!
      const end = first[i + 1]!
      for (let k = first[i]!; k < end; k++) {
        const other = to[k]! * 2
        const a = from[other]!
        const b = from[other + 1]!
        const c = couplings[k * 2]!
        const s = couplings[k * 2 + 1]!
        re -= c * a - s * b
        im -= c * b + s * a
      }
      out[i * 2] = re
      out[i * 2 + 1] = im
    }
  }
  apply(x, image)
  let [old, whole] = [0, 0]
  for (let k = 0; k < x.length; k++) {
    const i = k >> 1
    const right = (area[i]! > 0 ? area[i]! : 1) * v[k]!
    residual[k] = right - image[k]!
    search[k] = residual[k]! / diagonal[i]!
    old += residual[k]! * search[k]!
    whole += (right * right) / diagonal[i]!
  }
  for (let round = 0; round < ROUNDS && old > ACCURACY * ACCURACY * whole; round++) {
    apply(search, image)
    let along = 0
    for (let k = 0; k < x.length; k++) along += search[k]! * image[k]!
    if (!(along > 0)) break
    let next = 0
    for (let k = 0; k < x.length; k++) {
      x[k]! += (old / along) * search[k]!
      residual[k]! -= (old / along) * image[k]!
      next += (residual[k]! * residual[k]!) / diagonal[k >> 1]!
    }
    for (let k = 0; k < x.length; k++)
      search[k] = residual[k]! / diagonal[k >> 1]! + (next / old) * search[k]!
    old = next
  }
  return x
}
