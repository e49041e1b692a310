/**
 * Covers: heights (f32, metres) over the ground of a mesh. The ground is pairs of neighbouring vertices (2 × i32), how far apart they
 * are (f64, metres) and the area around each vertex (f64, m²; 0: no ground), both as seen from above.
 */
import { readF32, readF64, readI32, writeF32, writeF64, writeI32 } from './machine'

/** Rounds in which heights even out or run off in one go. */
const ROUNDS: i32 = 4
/** Parts of a difference that go over in a round: where grains fall, and sideways on ground that is itself too steep. */
const SPREAD: f64 = 0.12
const SIDEWAYS: f64 = 0.1

function least(a: f64, b: f64): f64 {
  return a < b ? a : b
}
function most(a: f64, b: f64): f64 {
  return a > b ? a : b
}

/** Evens heights (f64) out over a few edges around: what falls as one grain stands for many that fall near it. */
export function spreadHeights(count: i32, pairs: usize, area: usize, heights: usize): void {
  for (let round = 0; round < ROUNDS; round++) {
    for (let e = 0; e < count; e++) {
      const a = readI32(pairs, e * 2)
      const b = readI32(pairs, e * 2 + 1)
      const difference = readF64(heights, a) - readF64(heights, b)
      if (difference == 0.0) continue
      const volume = SPREAD * difference * least(readF64(area, a), readF64(area, b))
      writeF64(heights, a, readF64(heights, a) - volume / readF64(area, a))
      writeF64(heights, b, readF64(heights, b) + volume / readF64(area, b))
    }
  }
}

/**
 * Lets heights run off until no slope is above `tangent`: along each edge steeper than that, what would make it so again goes down,
 * half of it a round, as far as there is any. Areas make up for one another, so what leaves one vertex is what reaches
 * the other. Where the ground itself is steeper (`steep`, i32 per vertex: written here), what slides evens out sideways too, or it would
 * go down in the few lines that edges happen to give it. `positions` are the vertices of the ground.
 * Source: heaps by local redistribution, as in Bak, Tang, Wiesenfeld, "Self-organized criticality" (1987).
 */
export function runOff(
  count: i32, vertices: i32, pairs: usize, apart: usize, area: usize, positions: usize, tangent: f64, steep: usize, heights: usize,
): void {
  for (let v = 0; v < vertices; v++) writeI32(steep, v, 0)
  for (let e = 0; e < count; e++) {
    const a = readI32(pairs, e * 2)
    const b = readI32(pairs, e * 2 + 1)
    const drop = readF32(positions, a * 3 + 1) - readF32(positions, b * 3 + 1)
    if ((drop < 0.0 ? -drop : drop) <= tangent * readF64(apart, e)) continue
    writeI32(steep, a, 1)
    writeI32(steep, b, 1)
  }
  for (let round = 0; round < ROUNDS; round++) {
    for (let e = 0; e < count; e++) {
      let a = readI32(pairs, e * 2)
      let b = readI32(pairs, e * 2 + 1)
      if (readF32(heights, a) == 0.0 && readF32(heights, b) == 0.0) continue
      const levelA = readF32(positions, a * 3 + 1)
      const levelB = readF32(positions, b * 3 + 1)
      let drop = levelA - levelB
      if (drop + readF32(heights, a) - readF32(heights, b) < 0.0) {
        const other = a
        a = b
        b = other
        drop = -drop
      }
      if (readF32(heights, a) <= 0.0) continue
      const areaA = readF64(area, a)
      const areaB = readF64(area, b)
      if (readI32(steep, a) != 0 && readI32(steep, b) != 0) {
        const volume = SIDEWAYS * (readF32(heights, a) - readF32(heights, b)) * least(areaA, areaB)
        writeF32(heights, a, most(0.0, readF32(heights, a) - volume / areaA))
        writeF32(heights, b, most(0.0, readF32(heights, b) + volume / areaB))
      }
      const excess = drop + readF32(heights, a) - readF32(heights, b) - tangent * readF64(apart, e)
      if (excess <= 0.0) continue
      const ratio = areaA / areaB
      const goes = least(readF32(heights, a), (0.5 * excess) / (1.0 + ratio))
      writeF32(heights, a, readF32(heights, a) - goes)
      writeF32(heights, b, readF32(heights, b) + goes * ratio)
    }
  }
}

/** Adds to heights (f32) what they have got (`added`, f64). */
export function addHeights(count: i32, added: usize, heights: usize): void {
  for (let v = 0; v < count; v++) {
    const more = readF64(added, v)
    if (more > 0.0) writeF32(heights, v, readF32(heights, v) + more)
  }
}

/** Writes the greatest rise since `before` and the greatest height (f64 each). Returns 1 if any height has changed, else 0. */
export function compareHeights(count: i32, heights: usize, before: usize, out: usize): i32 {
  let rise: f64 = 0.0
  let highest: f64 = 0.0
  let changed = 0
  for (let v = 0; v < count; v++) {
    const height = readF32(heights, v)
    const by = height - readF32(before, v)
    if (by != 0.0) changed = 1
    rise = most(rise, by)
    highest = most(highest, height)
  }
  writeF64(out, 0, rise)
  writeF64(out, 1, highest)
  return changed
}

/** Vertices (3 × f32) with heights added straight up. */
export function raiseVertices(start: i32, end: i32, positions: usize, heights: usize, out: usize): void {
  for (let v = start; v < end; v++) {
    writeF32(out, v * 3, readF32(positions, v * 3))
    writeF32(out, v * 3 + 1, readF32(positions, v * 3 + 1) + readF32(heights, v))
    writeF32(out, v * 3 + 2, readF32(positions, v * 3 + 2))
  }
}

/** Numbers of those on whom an influence acts (`amount` above 0) and who are slower than `speed`, m/s. Returns how many. */
export function selectSlow(count: i32, amount: usize, velocity: usize, speed: f64, out: usize): i32 {
  let found = 0
  for (let i = 0; i < count; i++) {
    if (readF32(amount, i) <= 0.0) continue
    const x = readF32(velocity, i * 3)
    const y = readF32(velocity, i * 3 + 1)
    const z = readF32(velocity, i * 3 + 2)
    if (x * x + y * y + z * z >= speed * speed) continue
    writeI32(out, found, i)
    found++
  }
  return found
}

/** Numbers of those no farther from their nearest triangle than so many radii and metres. Returns how many. */
export function selectNear(count: i32, distance: usize, radius: usize, radii: f64, metres: f64, out: usize): i32 {
  let found = 0
  for (let k = 0; k < count; k++) {
    if (readF32(distance, k) >= radii * readF32(radius, k) + metres) continue
    writeI32(out, found, k)
    found++
  }
  return found
}

/** Of the numbers in a list, those whose triangle is ground (`ground`: i32 per triangle). Returns how many; in place. */
export function selectOnGround(count: i32, list: usize, triangle: usize, ground: usize): i32 {
  let found = 0
  for (let n = 0; n < count; n++) {
    const k = readI32(list, n)
    if (readI32(ground, readI32(triangle, k)) == 0) continue
    writeI32(list, found, k)
    found++
  }
  return found
}

/** Weight of a corner, of the weights of the second and third. */
function cornerWeight(weights: usize, k: i32, corner: i32): f64 {
  if (corner > 0) return readF32(weights, k * 2 + corner - 1)
  return 1.0 - readF32(weights, k * 2) - readF32(weights, k * 2 + 1)
}

/**
 * From the last born on: who finds less than `depth` of particles at the corners of its triangle stays (`fresh`, f64 metres per
 * vertex), the others are gone (i32 1) and are height (`added`, f64). `volume` is that of cover from a ball of radius 1, m³.
 */
export function takeUp(
  count: i32, radius: usize, triangle: usize, weights: usize, triangles: usize, area: usize, volume: f64, depth: f64,
  fresh: usize, added: usize, gone: usize,
): void {
  for (let k = count - 1; k >= 0; k--) {
    const r = readF32(radius, k)
    const whole = volume * r * r * r
    const t = readI32(triangle, k) * 3
    let stays = true
    for (let c = 0; c < 3; c++) {
      const v = readI32(triangles, t + c)
      if (readF64(fresh, v) + (whole * cornerWeight(weights, k, c)) / readF64(area, v) > depth) stays = false
    }
    writeI32(gone, k, stays ? 0 : 1)
    const heights = stays ? fresh : added
    for (let c = 0; c < 3; c++) {
      const v = readI32(triangles, t + c)
      writeF64(heights, v, readF64(heights, v) + (whole * cornerWeight(weights, k, c)) / readF64(area, v))
    }
  }
}

/**
 * Lifts particles with the ground below them: by what it has risen there since `before`, less the gap between (distance − radius).
 * `index` names the particles of the rows.
 */
export function liftOntoCover(
  start: i32, end: i32, index: usize, distance: usize, triangle: usize, weights: usize, triangles: usize, before: usize, heights: usize,
  radius: usize, position: usize, startPosition: usize,
): void {
  for (let k = start; k < end; k++) {
    const i = readI32(index, k)
    const t = readI32(triangle, k) * 3
    let up = -most(0.0, readF32(distance, k) - readF32(radius, i))
    for (let c = 0; c < 3; c++) {
      const v = readI32(triangles, t + c)
      up += cornerWeight(weights, k, c) * (readF32(heights, v) - readF32(before, v))
    }
    if (up <= 0.0) continue
    writeF32(position, i * 3 + 1, readF32(position, i * 3 + 1) + up)
    writeF32(startPosition, i * 3 + 1, readF32(startPosition, i * 3 + 1) + up)
  }
}

/** Puts who is inside a surface (signed `distance` below 0, nearest `point`) on it, a radius out. */
export function digOut(
  start: i32, end: i32, index: usize, distance: usize, point: usize, radius: usize, position: usize, startPosition: usize,
): void {
  for (let k = start; k < end; k++) {
    const depth = -readF32(distance, k)
    if (depth <= 0.0) continue
    const i = readI32(index, k)
    const r = readF32(radius, i)
    for (let axis = 0; axis < 3; axis++) {
      const on = readF32(point, k * 3 + axis)
      const place = on + ((on - readF32(position, i * 3 + axis)) / depth) * r
      writeF32(position, i * 3 + axis, place)
      writeF32(startPosition, i * 3 + axis, place)
    }
  }
}
