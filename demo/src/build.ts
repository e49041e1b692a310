import { transform, affine, type Mesh, type Vector } from '@tangle/core'

/** Tools with which Heron Quay is made. Metres, Y up, counter-clockwise from outside. */

/**
 * Rings of the same number of points joined one after the other, counter-clockwise as seen from the last: closed
 * at both ends, unless the last is the first again. U goes round, V from the first ring to the last; the ends have
 * the V of their ring.
 */
export function loft(rings: Vector[][]): Mesh {
  const around = rings[0]!.length
  const positions = rings.flat(2)
  const triangles: number[] = []
  const uvs: number[] = []
  const corner = (ring: number, s: number): void => {
    triangles.push(ring * around + (s % around))
    uvs.push(s / around, ring / (rings.length - 1))
  }
  const quad = (r: number, s: number): void => {
    corner(r, s)
    corner(r, s + 1)
    corner(r + 1, s + 1)
    corner(r, s)
    corner(r + 1, s + 1)
    corner(r + 1, s)
  }
  for (let r = 0; r + 1 < rings.length; r++) for (let s = 0; s < around; s++) quad(r, s)
  const joined = rings[0]!.every((point, s) => point.every((x, k) => x === rings.at(-1)![s]![k]))
  for (const ring of joined ? [] : [0, rings.length - 1]) {
    const middle = positions.length / 3
    const points = rings[ring]!
    positions.push(...([0, 1, 2] as const).map((k) => points.reduce((sum, p) => sum + p[k], 0) / around))
    for (let s = 0; s < around; s++) {
      if (ring === 0) corner(ring, s + 1)
      corner(ring, s)
      if (ring > 0) corner(ring, s + 1)
      triangles.push(middle)
      uvs.push((s + 0.5) / around, ring / (rings.length - 1))
    }
  }
  return tidy({
    positions: new Float32Array(positions),
    triangles: new Uint32Array(triangles),
    uvs: new Float32Array(uvs),
  })
}

/** Sections across a bent line in the XY plane: at x, y, half a width along Z and half a height across. */
export function limb(line: [x: number, y: number, width: number, height: number][], around = 4): Mesh {
  return loft(
    line.map(([x, y, width, height], i) => {
      const [before, after] = [line[Math.max(0, i - 1)]!, line[Math.min(line.length - 1, i + 1)]!]
      const [dx, dy] = [after[0] - before[0], after[1] - before[1]]
      const long = Math.hypot(dx, dy)
      return Array.from({ length: around }, (_, s): Vector => {
        const turn = (2 * Math.PI * s) / around
        const across = height * Math.cos(turn)
        return [x - (dy / long) * across, y + (dx / long) * across, width * Math.sin(turn)]
      })
    }),
  )
}

/**
 * A body of revolution about the Y axis. The profile goes from bottom to top outside; a profile that
 * ends where it began is a ring, others are closed at the axis.
 */
export const lathe = (profile: [radius: number, height: number][], around = 64): Mesh =>
  loft(
    profile.map(([radius, height]) =>
      Array.from({ length: around }, (_, s): Vector => {
        const turn = (2 * Math.PI * s) / around
        return [radius * Math.sin(turn), height, radius * Math.cos(turn)]
      }),
    ),
  )

/** Takes out triangles whose corners fall together, as at the axis of a lathe. */
function tidy(mesh: Mesh): Mesh {
  const same = (a: number, b: number): boolean =>
    [0, 1, 2].every((k) => Math.abs(mesh.positions[a * 3 + k]! - mesh.positions[b * 3 + k]!) < 1e-9)
  const kept: number[] = []
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const [a, b, c] = [mesh.triangles[t]!, mesh.triangles[t + 1]!, mesh.triangles[t + 2]!]
    if (!same(a, b) && !same(b, c) && !same(a, c)) kept.push(t, t + 1, t + 2)
  }
  return {
    positions: mesh.positions,
    triangles: Uint32Array.from(kept, (c) => mesh.triangles[c]!),
    ...(mesh.uvs && {
      uvs: Float32Array.from(kept.flatMap((c) => [mesh.uvs![c * 2]!, mesh.uvs![c * 2 + 1]!])),
    }),
  }
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
  return { ...mesh, positions }
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
    ...(meshes.every((mesh) => mesh.uvs) && {
      uvs: new Float32Array(meshes.flatMap((mesh) => [...mesh.uvs!])),
    }),
  }
}

/** U and V laid on from the side: along X and Y, 0 to 1 over its extent. */
export function seenFromTheSide(mesh: Mesh): Mesh {
  const of = (c: number, axis: number): number => mesh.positions[mesh.triangles[c]! * 3 + axis]!
  const corners = Array.from(mesh.triangles, (_, c) => c)
  const [low, high] = [Math.min, Math.max].map((end) =>
    [0, 1].map((axis) => end(...corners.map((c) => of(c, axis)))),
  )
  const uvs = corners.flatMap((c) => [0, 1].map((k) => (of(c, k) - low![k]!) / (high![k]! - low![k]!)))
  return { ...mesh, uvs: new Float32Array(uvs) }
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
  for (let c = 0; c < (mesh.uvs?.length ?? 0); c += 2) {
    lines.push(`vt ${short(mesh.uvs![c]!)} ${short(mesh.uvs![c + 1]!)}`)
  }
  const corner = (c: number): string => `${mesh.triangles[c]! + 1}${mesh.uvs ? `/${c + 1}` : ''}`
  for (let c = 0; c < mesh.triangles.length; c += 3) {
    lines.push(`f ${corner(c)} ${corner(c + 1)} ${corner(c + 2)}`)
  }
  return new TextEncoder().encode(`${lines.join('\n')}\n`)
}
