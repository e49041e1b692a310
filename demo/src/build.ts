import { transform, affine, type Mesh, type Vector } from '@tangle/core'

/** Tools with which Heron Quay is made. Metres, Y up, counter-clockwise from outside. */

/**
 * A body of revolution about the Y axis. The profile goes from bottom to top outside; a profile that
 * ends where it began is a ring, others are closed at the axis.
 */
export function lathe(profile: [radius: number, height: number][], around = 64): Mesh {
  const positions: number[] = []
  const triangles: number[] = []
  for (const [radius, height] of profile) {
    for (let s = 0; s < around; s++) {
      const turn = (2 * Math.PI * s) / around
      positions.push(radius * Math.sin(turn), height, radius * Math.cos(turn))
    }
  }
  for (let r = 0; r + 1 < profile.length; r++) {
    for (let s = 0; s < around; s++) {
      const next = (s + 1) % around
      const [a, b] = [r * around + s, r * around + next]
      triangles.push(a, b, b + around, a, b + around, a + around)
    }
  }
  return tidy({ positions: new Float32Array(positions), triangles: new Uint32Array(triangles) })
}

/** Takes out triangles whose corners fall together, as at the axis of a lathe. */
function tidy(mesh: Mesh): Mesh {
  const same = (a: number, b: number): boolean =>
    [0, 1, 2].every((k) => Math.abs(mesh.positions[a * 3 + k]! - mesh.positions[b * 3 + k]!) < 1e-9)
  const kept: number[] = []
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [mesh.triangles[t]!, mesh.triangles[t + 1]!, mesh.triangles[t + 2]!]
    if (!same(a, b) && !same(b, c) && !same(a, c)) kept.push(a, b, c)
  }
  return { positions: mesh.positions, triangles: new Uint32Array(kept) }
}

/** A convex outline in the XY plane drawn out along Z, centred. */
export function prism(outline: [number, number][], depth: number): Mesh {
  const n = outline.length
  const positions = [depth / 2, -depth / 2].flatMap((z) => outline.flatMap(([x, y]) => [x, y, z]))
  const triangles: number[] = []
  for (let i = 1; i + 1 < n; i++) triangles.push(0, i, i + 1, n, n + i + 1, n + i)
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n
    triangles.push(i, n + i, n + j, i, n + j, j)
  }
  return { positions: new Float32Array(positions), triangles: new Uint32Array(triangles) }
}

export const box = (x: number, y: number, z: number): Mesh =>
  prism(
    [
      [-x / 2, -y / 2],
      [x / 2, -y / 2],
      [x / 2, y / 2],
      [-x / 2, y / 2],
    ],
    z,
  )

export function moved(mesh: Mesh, position: Vector, rotation: Vector = [0, 0, 0]): Mesh {
  const map = affine(position, rotation, [1, 1, 1])
  const positions = new Float32Array(mesh.positions.length)
  for (let v = 0; v < positions.length; v += 3) {
    positions.set(transform(map, [mesh.positions[v]!, mesh.positions[v + 1]!, mesh.positions[v + 2]!]), v)
  }
  return { positions, triangles: mesh.triangles }
}

export function together(...meshes: Mesh[]): Mesh {
  let first = 0
  const triangles = meshes.flatMap((mesh) => {
    const shifted = Array.from(mesh.triangles, (v) => v + first)
    first += mesh.positions.length / 3
    return shifted
  })
  return {
    positions: new Float32Array(meshes.flatMap((mesh) => [...mesh.positions])),
    triangles: new Uint32Array(triangles),
  }
}

/** Wavefront OBJ text of a mesh, with micrometres. */
export function objBytes(mesh: Mesh, name: string): Uint8Array {
  const lines = [`# ${name}, Heron Quay`, `o ${name.replaceAll(' ', '_')}`]
  const short = (x: number): string => String(Math.round(x * 1e6) / 1e6)
  for (let v = 0; v < mesh.positions.length; v += 3) {
    lines.push(
      `v ${short(mesh.positions[v]!)} ${short(mesh.positions[v + 1]!)} ${short(mesh.positions[v + 2]!)}`,
    )
  }
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    lines.push(`f ${mesh.triangles[t]! + 1} ${mesh.triangles[t + 1]! + 1} ${mesh.triangles[t + 2]! + 1}`)
  }
  return new TextEncoder().encode(`${lines.join('\n')}\n`)
}
