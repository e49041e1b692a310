/** Masks at points (3 × f32, metres): a value from 0 to 1 each, into `out` (f32). */
import { cellular, noise, simplexCurl } from './noise'
import { readF32, readF64, readI32, squareRoot, writeF32 } from './machine'

/** Brings one octave of the noise to a spread of about ±1 (measured, core/test/masks.test.ts). */
const NOISE_SPREAD: f64 = 105.0

export function smoothStep(t: f64): f64 {
  const u = t < 0.0 ? 0.0 : t > 1.0 ? 1.0 : t
  return u * u * (3.0 - 2.0 * u)
}

/** 1 within the radius, 0 beyond radius + soft. */
export function maskBall(start: i32, end: i32, points: usize, out: usize, cx: f64, cy: f64, cz: f64, radius: f64, soft: f64): void {
  for (let i = start; i < end; i++) {
    const x = readF32(points, i * 3) - cx
    const y = readF32(points, i * 3 + 1) - cy
    const z = readF32(points, i * 3 + 2) - cz
    writeF32(out, i, edge(squareRoot(x * x + y * y + z * z) - radius, soft))
  }
}

/** 1 behind the plane through c with unit normal n, 0 in front of it by more than `soft`. */
export function maskSlab(start: i32, end: i32, points: usize, out: usize, cx: f64, cy: f64, cz: f64, nx: f64, ny: f64, nz: f64, soft: f64, thickness: f64): void {
  for (let i = start; i < end; i++) {
    const d = (readF32(points, i * 3) - cx) * nx + (readF32(points, i * 3 + 1) - cy) * ny + (readF32(points, i * 3 + 2) - cz) * nz
    let value = edge(d, soft)
    if (thickness > 0.0) {
      const back = edge(-d - thickness, soft)
      if (back < value) value = back
    }
    writeF32(out, i, value)
  }
}

/** 1 inside the box, 0 farther than `soft` from it. `map`: 12 f64 that bring the world into the box's frame. */
export function maskBox(start: i32, end: i32, points: usize, out: usize, map: usize, hx: f64, hy: f64, hz: f64, soft: f64): void {
  for (let i = start; i < end; i++) {
    const x = readF32(points, i * 3)
    const y = readF32(points, i * 3 + 1)
    const z = readF32(points, i * 3 + 2)
    const a = beyond(readF64(map, 0) * x + readF64(map, 1) * y + readF64(map, 2) * z + readF64(map, 3), hx)
    const b = beyond(readF64(map, 4) * x + readF64(map, 5) * y + readF64(map, 6) * z + readF64(map, 7), hy)
    const c = beyond(readF64(map, 8) * x + readF64(map, 9) * y + readF64(map, 10) * z + readF64(map, 11), hz)
    writeF32(out, i, edge(squareRoot(a * a + b * b + c * c), soft))
  }
}
function beyond(x: f64, half: f64): f64 {
  const d = (x < 0.0 ? -x : x) - half
  return d > 0.0 ? d : 0.0
}

/** 1 up to a distance of 0, 0 from `soft` on, smooth between; a step where soft is 0. */
function edge(distance: f64, soft: f64): f64 {
  if (soft <= 0.0) return distance <= 0.0 ? 1.0 : 0.0
  return 1.0 - smoothStep(distance / soft)
}

/** 1 where a signed distance (f32) is below `within`, 0 above within + soft. */
export function maskDistance(start: i32, end: i32, distances: usize, out: usize, within: f64, soft: f64): void {
  for (let i = start; i < end; i++) writeF32(out, i, edge(readF32(distances, i) - within, soft))
}

/** Gradient noise of `octaves` layers about ½, sharpened about it by `contrast`. Tables: see noise.ts. */
export function maskNoise(
  start: i32, end: i32, points: usize, out: usize, tables: usize, tableBytes: i32, octaves: i32,
  frequency: f64, contrast: f64, level: f64,
): void {
  for (let i = start; i < end; i++) {
    writeF32(out, i, sharpened(0.5 + 0.5 * layered(points, i, tables, tableBytes, octaves, frequency), contrast, level))
  }
}

/** Cellular noise: the distance to the nearest of the points scattered one a cell. */
export function maskCells(start: i32, end: i32, points: usize, out: usize, table: usize, frequency: f64, contrast: f64, level: f64): void {
  for (let i = start; i < end; i++) {
    const f = cellular(
      table,
      readF32(points, i * 3) * frequency,
      readF32(points, i * 3 + 1) * frequency,
      readF32(points, i * 3 + 2) * frequency,
    )
    writeF32(out, i, sharpened(1.0 - f, contrast, level))
  }
}

function sharpened(value: f64, contrast: f64, level: f64): f64 {
  const v = (value - level) * contrast + 0.5
  return v < 0.0 ? 0.0 : v > 1.0 ? 1.0 : v
}

function layered(points: usize, i: i32, tables: usize, tableBytes: i32, octaves: i32, frequency: f64): f64 {
  let f = frequency
  let gain = 1.0
  let sum = 0.0
  let squares = 0.0
  for (let octave = 0; octave < octaves; octave++) {
    simplexCurl(
      tables + <usize>(octave * tableBytes),
      readF32(points, i * 3) * f + 0.5,
      readF32(points, i * 3 + 1) * f + 0.5,
      readF32(points, i * 3 + 2) * f + 0.5,
    )
    sum += gain * noise * NOISE_SPREAD
    squares += gain * gain
    f *= 2.0
    gain *= 0.5
  }
  return sum / squareRoot(squares)
}

/** The noise of `maskNoise` itself, about 0 with a spread of about ±1. */
export function noiseAt(
  start: i32, end: i32, points: usize, out: usize, tables: usize, tableBytes: i32, octaves: i32, frequency: f64,
): void {
  for (let i = start; i < end; i++) writeF32(out, i, layered(points, i, tables, tableBytes, octaves, frequency))
}

/** 1 on the level of another mask, falling to 0 at `width` from it. */
export function maskFront(start: i32, end: i32, input: usize, out: usize, level: f64, width: f64): void {
  for (let i = start; i < end; i++) {
    const d = readF32(input, i) - level
    writeF32(out, i, 1.0 - smoothStep((d < 0.0 ? -d : d) / width))
  }
}

/** Arrival (f32, metres of way) against how far the front has come: 1 behind it, 0 ahead by `soft`. */
export function maskArrival(start: i32, end: i32, arrival: usize, out: usize, reach: f64, soft: f64): void {
  for (let i = start; i < end; i++) {
    // linear: the level ½ then stands exactly half the width behind the first trace
    const v = soft > 0.0 ? (reach - readF32(arrival, i)) / soft + 0.5 : reach >= readF32(arrival, i) ? 1.0 : 0.0
    writeF32(out, i, v < 0.0 ? 0.0 : v > 1.0 ? 1.0 : v)
  }
}

/** a and b combined into out: 0 multiply, 1 max, 2 min, 3 subtract (a − b), 4 add. */
export function maskMix(start: i32, end: i32, a: usize, b: usize, out: usize, how: i32): void {
  for (let i = start; i < end; i++) {
    const x = readF32(a, i)
    const y = readF32(b, i)
    let v = x * y
    if (how == 1) v = x > y ? x : y
    else if (how == 2) v = x < y ? x : y
    else if (how == 3) v = x - y
    else if (how == 4) v = x + y
    writeF32(out, i, v < 0.0 ? 0.0 : v > 1.0 ? 1.0 : v)
  }
}

/**
 * Values of a mesh's vertices (f32) at places on its triangles: `places` 2 × u32 (mesh number,
 * triangle), `at` 3 × f32 of which the first two are the weights of the second and third vertex.
 */
export function sampleSurface(start: i32, end: i32, triangle: usize, stride: i32, first: i32, at: usize, atStride: i32, triangles: usize, values: usize, out: usize): void {
  for (let i = start; i < end; i++) {
    const t = readI32(triangle, i * stride + first) * 3
    const u = readF32(at, i * atStride)
    const v = readF32(at, i * atStride + 1)
    const a = readF32(values, readI32(triangles, t))
    const b = readF32(values, readI32(triangles, t + 1))
    const c = readF32(values, readI32(triangles, t + 2))
    writeF32(out, i, a * (1.0 - u - v) + b * u + c * v)
  }
}

/** out = scale·in + offset. */
export function linear(start: i32, end: i32, input: usize, out: usize, scale: f64, offset: f64): void {
  for (let i = start; i < end; i++) writeF32(out, i, readF32(input, i) * scale + offset)
}
