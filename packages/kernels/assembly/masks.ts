/** Masks at points (3 × f32, metres): a value from 0 to 1 each, into `out` (f32). */
import { cellular, noise, simplexCurl } from './noise'
import {
  absolute4, add4, divide4, less4, load4, maximum4, minimum4, multiply4, select4, splat4, squareRoot4, store4, subtract4,
  xOf4, yOf4, zOf4, F4,
} from './lanes'
import { readF32, readF64, readI32, squareRoot, writeF32, writeI32 } from './machine'

/** Brings one octave of the noise to a spread of about ±1 (measured, core/test/masks.test.ts). */
const NOISE_SPREAD: f64 = 105.0

function clamp4(value: F4): F4 {
  return minimum4(maximum4(value, splat4(0.0)), splat4(1.0))
}

/** 0 up to t = 0, 1 from t = 1 on: t²·(3 − 2t) between. */
export function smoothStep4(t: F4): F4 {
  const u = clamp4(t)
  return multiply4(multiply4(u, u), subtract4(splat4(3.0), add4(u, u)))
}

/** 1 up to a distance of 0, 0 from `soft` on, smooth between; a step where soft is 0. */
function edge4(distance: F4, soft: f64): F4 {
  const one = splat4(1.0)
  if (soft <= 0.0) return select4(less4(splat4(0.0), distance), splat4(0.0), one)
  return subtract4(one, smoothStep4(divide4(distance, splat4(soft))))
}

/** The four points i … i + 3, as columns. */
let x: F4 = splat4(0.0)
let y: F4 = splat4(0.0)
let z: F4 = splat4(0.0)
function readPoints(points: usize, i: i32): void {
  const a = load4(points, i * 3)
  const b = load4(points, i * 3 + 4)
  const c = load4(points, i * 3 + 8)
  x = xOf4(a, b, c)
  y = yOf4(a, b, c)
  z = zOf4(a, b, c)
}

/** 1 within the radius, 0 beyond radius + soft. */
export function maskBall(start: i32, end: i32, points: usize, out: usize, cx: f64, cy: f64, cz: f64, radius: f64, soft: f64): void {
  for (let i = start; i < end; i += 4) {
    readPoints(points, i)
    const dx = subtract4(x, splat4(cx))
    const dy = subtract4(y, splat4(cy))
    const dz = subtract4(z, splat4(cz))
    const squared = add4(add4(multiply4(dx, dx), multiply4(dy, dy)), multiply4(dz, dz))
    store4(out, i, edge4(subtract4(squareRoot4(squared), splat4(radius)), soft))
  }
}

/** 1 behind the plane through c with unit normal n, 0 in front of it by more than `soft`. */
export function maskSlab(start: i32, end: i32, points: usize, out: usize, cx: f64, cy: f64, cz: f64, nx: f64, ny: f64, nz: f64, soft: f64, thickness: f64): void {
  for (let i = start; i < end; i += 4) {
    readPoints(points, i)
    const alongX = multiply4(subtract4(x, splat4(cx)), splat4(nx))
    const alongY = multiply4(subtract4(y, splat4(cy)), splat4(ny))
    const d = add4(add4(alongX, alongY), multiply4(subtract4(z, splat4(cz)), splat4(nz)))
    let value = edge4(d, soft)
    if (thickness > 0.0) value = minimum4(value, edge4(subtract4(splat4(-thickness), d), soft))
    store4(out, i, value)
  }
}

/** 1 inside the box, 0 farther than `soft` from it. `map`: 12 f64 that bring the world into the box's frame. */
export function maskBox(start: i32, end: i32, points: usize, out: usize, map: usize, hx: f64, hy: f64, hz: f64, soft: f64): void {
  for (let i = start; i < end; i += 4) {
    readPoints(points, i)
    const a = beyond(map, 0, hx)
    const b = beyond(map, 4, hy)
    const c = beyond(map, 8, hz)
    const squared = add4(add4(multiply4(a, a), multiply4(b, b)), multiply4(c, c))
    store4(out, i, edge4(squareRoot4(squared), soft))
  }
}
/** How far the points lie outside the slab of a half width that a row of the map measures. */
function beyond(map: usize, row: i32, half: f64): F4 {
  const along = add4(
    add4(
      add4(multiply4(splat4(readF64(map, row)), x), multiply4(splat4(readF64(map, row + 1)), y)),
      multiply4(splat4(readF64(map, row + 2)), z),
    ),
    splat4(readF64(map, row + 3)),
  )
  return maximum4(subtract4(absolute4(along), splat4(half)), splat4(0.0))
}

/** 1 where a signed distance (f32) is below `within`, 0 above within + soft. */
export function maskDistance(start: i32, end: i32, distances: usize, out: usize, within: f64, soft: f64): void {
  for (let i = start; i < end; i += 4) store4(out, i, edge4(subtract4(load4(distances, i), splat4(within)), soft))
}

/** Gradient noise of `octaves` layers about ½, sharpened about it by `contrast`. Tables: see noise.ts. */
export function maskNoise(
  start: i32, end: i32, points: usize, out: usize, tables: usize, tableBytes: i32, octaves: i32,
  frequency: f64, contrast: f64, level: f64,
): void {
  const half = splat4(0.5)
  for (let i = start; i < end; i += 4) {
    const layered = layers(points, i, tables, tableBytes, octaves, frequency)
    store4(out, i, sharpened(add4(half, multiply4(half, layered)), contrast, level))
  }
}

/** Cellular noise: the distance to the nearest of the points scattered one a cell. */
export function maskCells(start: i32, end: i32, points: usize, out: usize, table: usize, frequency: f64, contrast: f64, level: f64): void {
  const f = splat4(frequency)
  for (let i = start; i < end; i += 4) {
    readPoints(points, i)
    const distance = cellular(table, multiply4(x, f), multiply4(y, f), multiply4(z, f))
    store4(out, i, sharpened(subtract4(splat4(1.0), distance), contrast, level))
  }
}

function sharpened(value: F4, contrast: f64, level: f64): F4 {
  return clamp4(add4(multiply4(subtract4(value, splat4(level)), splat4(contrast)), splat4(0.5)))
}

/** Layers of noise, each half the size and height of the one before, about 0 with a spread of about ±1. */
function layers(points: usize, i: i32, tables: usize, tableBytes: i32, octaves: i32, frequency: f64): F4 {
  readPoints(points, i)
  const shift = splat4(0.5)
  let scale = frequency
  let gain = 1.0
  let sum = splat4(0.0)
  let squares = 0.0
  for (let octave = 0; octave < octaves; octave++) {
    const f = splat4(scale)
    simplexCurl(
      tables + <usize>(octave * tableBytes),
      add4(multiply4(x, f), shift),
      add4(multiply4(y, f), shift),
      add4(multiply4(z, f), shift),
    )
    sum = add4(sum, multiply4(splat4(gain * NOISE_SPREAD), noise))
    squares += gain * gain
    scale *= 2.0
    gain *= 0.5
  }
  return multiply4(sum, splat4(1.0 / squareRoot(squares)))
}

/** The noise of `maskNoise` itself, about 0 with a spread of about ±1. */
export function noiseAt(
  start: i32, end: i32, points: usize, out: usize, tables: usize, tableBytes: i32, octaves: i32, frequency: f64,
): void {
  for (let i = start; i < end; i += 4) store4(out, i, layers(points, i, tables, tableBytes, octaves, frequency))
}

/** 1 on the level of another mask, falling to 0 at `width` from it. */
export function maskFront(start: i32, end: i32, input: usize, out: usize, level: f64, width: f64): void {
  for (let i = start; i < end; i += 4) {
    const d = absolute4(subtract4(load4(input, i), splat4(level)))
    store4(out, i, subtract4(splat4(1.0), smoothStep4(divide4(d, splat4(width)))))
  }
}

/** Arrival (f32, metres of way) against how far the front has come: 1 behind it, 0 ahead by `soft`. */
export function maskArrival(start: i32, end: i32, arrival: usize, out: usize, reach: f64, soft: f64): void {
  for (let i = start; i < end; i += 4) {
    const ahead = subtract4(splat4(reach), load4(arrival, i))
    // linear: the level ½ then stands exactly half the width behind the first trace
    const v = soft > 0.0 ? clamp4(add4(divide4(ahead, splat4(soft)), splat4(0.5))) : select4(less4(ahead, splat4(0.0)), splat4(0.0), splat4(1.0))
    store4(out, i, v)
  }
}

/** a and b combined into out: 0 multiply, 1 max, 2 min, 3 subtract (a − b), 4 add. */
export function maskMix(start: i32, end: i32, a: usize, b: usize, out: usize, how: i32): void {
  for (let i = start; i < end; i += 4) {
    const p = load4(a, i)
    const q = load4(b, i)
    let v = multiply4(p, q)
    if (how == 1) v = maximum4(p, q)
    else if (how == 2) v = minimum4(p, q)
    else if (how == 3) v = subtract4(p, q)
    else if (how == 4) v = add4(p, q)
    store4(out, i, clamp4(v))
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
  for (let i = start; i < end; i += 4) {
    store4(out, i, add4(multiply4(load4(input, i), splat4(scale)), splat4(offset)))
  }
}

/**
 * Numbers of the triangles (3 × u32) over which the level of a mask has just passed at least in part: one corner was below it before,
 * and one is at or above it after. Returns how many.
 */
export function selectSwept(count: i32, triangles: usize, before: usize, after: usize, level: f64, out: usize): i32 {
  let found = 0
  for (let t = 0; t < count; t++) {
    const a = readI32(triangles, t * 3)
    const b = readI32(triangles, t * 3 + 1)
    const c = readI32(triangles, t * 3 + 2)
    if (readF32(before, a) >= level && readF32(before, b) >= level && readF32(before, c) >= level) continue
    if (readF32(after, a) < level && readF32(after, b) < level && readF32(after, c) < level) continue
    writeI32(out, found, t)
    found++
  }
  return found
}
