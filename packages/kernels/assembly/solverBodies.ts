/**
 * Solver bodies: particles that hold one another, by links or by touching, as rows (`bodyRow` in layouts.ts). Constraints
 * move them by displacements from where the substep began: f32 tells those apart as finely as f64 tells places, and four
 * bodies are four rows of 16 bytes.
 *
 * Sources: extended position based dynamics with compliance, Macklin, Müller, Chentanez (2016); small steps, Macklin et
 * al. (2019); friction of positions, Macklin et al. (2014), §6.1; restitution and friction of velocities, Müller et al.,
 * "Detailed rigid body simulation with extended position based dynamics" (2020), §3.6.
 */
import { bodyRow, sleepState } from './layouts'
import {
  add4, and4, any4, atLeast4, equalI4, firstOf4, inRange4, length4, less4, load4, loadI4, maximum4, minimum4, multiply4, secondOf4,
  select4, splat4, splatI4, store4, storeI4, subtract4, thirdOf4, unlessFaint4, where4, withLane, xOf4, yOf4, zOf4,
} from './lanes'
import { readF32, squareRoot, writeF32, writeI32 } from './machine'
import { readRowsFrom, rowW, rowX, rowY, rowZ, writeRowsFrom } from './rows'

/** Speeds that are no more are none, m/s. */
const FAINT: f64 = 1.0e-15

/** Columns into bodies, from the `first` of them on. `pinned` (f32; 0: none): at 1 and above it does not give way. */
export function gatherBodies(
  start: i32, end: i32, position: usize, startPosition: usize, velocity: usize, inverseMass: usize, radius: usize,
  pinned: usize, first: i32, starts: usize, moved: usize, speeds: usize, awakeMass: usize, sleeps: usize,
): void {
  for (let i = start; i < end; i += 4) {
    const k = first + i
    const a = load4(startPosition, i * 3)
    const b = load4(startPosition, i * 3 + 4)
    const c = load4(startPosition, i * 3 + 8)
    writeRowsFrom(starts, k, xOf4(a, b, c), yOf4(a, b, c), zOf4(a, b, c), load4(radius, i))
    const p = subtract4(load4(position, i * 3), a)
    const q = subtract4(load4(position, i * 3 + 4), b)
    const r = subtract4(load4(position, i * 3 + 8), c)
    let w = load4(inverseMass, i)
    if (pinned != 0) w = select4(atLeast4(load4(pinned, i), splat4(1.0)), splat4(0.0), w)
    writeRowsFrom(moved, k, xOf4(p, q, r), yOf4(p, q, r), zOf4(p, q, r), w)
    const u = unlessFaint4(load4(velocity, i * 3), FAINT)
    const v = unlessFaint4(load4(velocity, i * 3 + 4), FAINT)
    const s = unlessFaint4(load4(velocity, i * 3 + 8), FAINT)
    writeRowsFrom(speeds, k, xOf4(u, v, s), yOf4(u, v, s), zOf4(u, v, s), w)
    store4(awakeMass, k, w)
    storeI4(sleeps, k, splatI4(sleepState.AWAKE))
  }
}

/** Who has rested for `wait` seconds sleeps: it lies where it lay and does not give way. */
export function sleepBodies(
  start: i32, end: i32, first: i32, moved: usize, speeds: usize, sleeps: usize, restTime: usize, wait: f64,
): void {
  for (let i = start; i < end; i++) {
    if (readF32(restTime, i) < wait) continue
    const k = first + i
    writeI32(sleeps, k, sleepState.ASLEEP)
    for (let n = 0; n < bodyRow.SIZE; n++) {
      writeF32(moved, k * bodyRow.SIZE + n, 0.0)
      writeF32(speeds, k * bodyRow.SIZE + n, 0.0)
    }
  }
}

/**
 * What lies on something (`marks`, i32) is moved to where its velocity at the end of the substep would have brought it, x₀ + v·h in
 * place of x₀ + v₀·h + a·h²/2. Then contact takes from its velocity, by Δx/h, all that acceleration gave it, a·h; else
 * half of that would stay, and heaps would never come to rest.
 */
export function predictResting(
  start: i32, end: i32, first: i32, marks: usize, startVelocity: usize, h: f64, moved: usize, speeds: usize,
): void {
  const zero = splat4(0.0)
  const half = splat4(0.5 * h)
  for (let i = start; i < end; i += 4) {
    const k = first + i
    const a = load4(startVelocity, i * 3)
    const b = load4(startVelocity, i * 3 + 4)
    const c = load4(startVelocity, i * 3 + 8)
    readRowsFrom(speeds, k)
    const gx = multiply4(half, subtract4(rowX, xOf4(a, b, c)))
    const gy = multiply4(half, subtract4(rowY, yOf4(a, b, c)))
    const gz = multiply4(half, subtract4(rowZ, zOf4(a, b, c)))
    readRowsFrom(moved, k)
    // what stands behind the last one is another population's
    const lies = and4(and4(equalI4(loadI4(marks, k), splatI4(1)), less4(zero, rowW)), inRange4(i, end))
    writeRowsFrom(moved, k, add4(rowX, where4(lies, gx)), add4(rowY, where4(lies, gy)), add4(rowZ, where4(lies, gz)), rowW)
  }
}

/** A table of rows into another. */
export function copyRows(start: i32, end: i32, from: usize, to: usize): void {
  for (let i = start; i < end; i++) store4(to, i * 4, load4(from, i * 4))
}
/** sums += moved − before, row by row. */
export function addMoves(start: i32, end: i32, moved: usize, before: usize, sums: usize): void {
  for (let i = start; i < end; i++)
    store4(sums, i * 4, add4(load4(sums, i * 4), subtract4(load4(moved, i * 4), load4(before, i * 4))))
}

/** What the rounds moved since `kept` gives velocity: v += Δx/h. */
export function velocityFromRounds(start: i32, end: i32, moved: usize, kept: usize, h: f64, speeds: usize): void {
  const perSecond = splat4(1.0 / h)
  for (let i = start; i < end; i++) {
    const gained = multiply4(perSecond, subtract4(load4(moved, i * 4), load4(kept, i * 4)))
    const v = add4(load4(speeds, i * 4), gained)
    // one that was woken has its mass again
    store4(speeds, i * 4, withLane(v, bodyRow.inverseMass, readF32(moved, i * 4 + bodyRow.inverseMass)))
  }
}

/**
 * Bodies back into columns. `free` (3 × f32) is where they were going; `travelled` (0: not kept) counts where they got
 * instead.
 */
export function scatterBodies(
  start: i32, end: i32, first: i32, starts: usize, moved: usize, speeds: usize, position: usize, velocity: usize,
  free: usize, travelled: usize,
): void {
  for (let i = start; i < end; i += 4) {
    const k = first + i
    readRowsFrom(starts, k)
    const sx = rowX
    const sy = rowY
    const sz = rowZ
    readRowsFrom(moved, k)
    const x = add4(sx, rowX)
    const y = add4(sy, rowY)
    const z = add4(sz, rowZ)
    if (travelled != 0) {
      const went = length4(rowX, rowY, rowZ)
      const a = load4(free, i * 3)
      const b = load4(free, i * 3 + 4)
      const c = load4(free, i * 3 + 8)
      const meant = length4(subtract4(xOf4(a, b, c), sx), subtract4(yOf4(a, b, c), sy), subtract4(zOf4(a, b, c), sz))
      store4(travelled, i, maximum4(splat4(0.0), add4(load4(travelled, i), subtract4(went, meant))))
    }
    store4(position, i * 3, firstOf4(x, y, z))
    store4(position, i * 3 + 4, secondOf4(x, y, z))
    store4(position, i * 3 + 8, thirdOf4(x, y, z))
    readRowsFrom(speeds, k)
    store4(velocity, i * 3, firstOf4(rowX, rowY, rowZ))
    store4(velocity, i * 3 + 4, secondOf4(rowX, rowY, rowZ))
    store4(velocity, i * 3 + 8, thirdOf4(rowX, rowY, rowZ))
  }
}

/**
 * Bodies as a crowd for the search of neighbours (3 × f32, f32, 3 × f32): `share` of the way that they go, and that way
 * less the `mean` one.
 */
export function crowdOfBodies(
  start: i32, end: i32, starts: usize, moved: usize, meanX: f64, meanY: f64, meanZ: f64, share: f64,
  position: usize, radius: usize, motion: usize,
): void {
  const part = splat4(share)
  const mx = splat4(meanX)
  const my = splat4(meanY)
  const mz = splat4(meanZ)
  for (let i = start; i < end; i += 4) {
    readRowsFrom(moved, i)
    const dx = rowX
    const dy = rowY
    const dz = rowZ
    readRowsFrom(starts, i)
    const x = add4(rowX, multiply4(part, dx))
    const y = add4(rowY, multiply4(part, dy))
    const z = add4(rowZ, multiply4(part, dz))
    store4(position, i * 3, firstOf4(x, y, z))
    store4(position, i * 3 + 4, secondOf4(x, y, z))
    store4(position, i * 3 + 8, thirdOf4(x, y, z))
    store4(radius, i, rowW)
    const ux = subtract4(dx, mx)
    const uy = subtract4(dy, my)
    const uz = subtract4(dz, mz)
    store4(motion, i * 3, firstOf4(ux, uy, uz))
    store4(motion, i * 3 + 4, secondOf4(ux, uy, uz))
    store4(motion, i * 3 + 8, thirdOf4(ux, uy, uz))
  }
}

/** The greatest way of a crowd in a substep, as a share of the radius. */
export function mostMotion(count: i32, motion: usize, radius: usize): f64 {
  let most = 0.0
  for (let i = 0; i < count; i++) {
    const x = readF32(motion, i * 3)
    const y = readF32(motion, i * 3 + 1)
    const z = readF32(motion, i * 3 + 2)
    const r = readF32(radius, i)
    const share = (x * x + y * y + z * z) / (r * r)
    if (share > most) most = share
  }
  return squareRoot(most)
}

/**
 * Sets `flag` (i32) where one has gone farther from its `position` in a list of candidates than that allowed for: `ahead`
 * times what it moved then (`motion`) and `share` of its radius, all less a common shift; what it has grown counts, too.
 */
export function outran(
  start: i32, end: i32, starts: usize, moved: usize, position: usize, radius: usize, motion: usize,
  shiftX: f64, shiftY: f64, shiftZ: f64, ahead: f64, share: f64, flag: usize,
): void {
  const mx = splat4(shiftX)
  const my = splat4(shiftY)
  const mz = splat4(shiftZ)
  for (let i = start; i < end; i += 4) {
    readRowsFrom(starts, i)
    const sx = subtract4(rowX, mx)
    const sy = subtract4(rowY, my)
    const sz = subtract4(rowZ, mz)
    const was = load4(radius, i)
    const grown = maximum4(splat4(0.0), subtract4(rowW, was))
    readRowsFrom(moved, i)
    const a = load4(position, i * 3)
    const b = load4(position, i * 3 + 4)
    const c = load4(position, i * 3 + 8)
    const went = length4(
      subtract4(add4(sx, rowX), xOf4(a, b, c)), subtract4(add4(sy, rowY), yOf4(a, b, c)), subtract4(add4(sz, rowZ), zOf4(a, b, c)),
    )
    const u = load4(motion, i * 3)
    const v = load4(motion, i * 3 + 4)
    const w = load4(motion, i * 3 + 8)
    const allowed = multiply4(splat4(ahead), length4(xOf4(u, v, w), yOf4(u, v, w), zOf4(u, v, w)))
    const bound = add4(allowed, multiply4(splat4(share), was))
    if (any4(and4(less4(bound, add4(went, grown)), inRange4(i, end)))) writeI32(flag, 0, 1)
  }
}

/** Low and high x, y and z of where bodies start: 8 × f32, the fourth and the eighth without meaning. */
export function boundBodies(count: i32, starts: usize, out: usize): void {
  let low = load4(starts, 0)
  let high = low
  for (let i = 1; i < count; i++) {
    low = minimum4(low, load4(starts, i * 4))
    high = maximum4(high, load4(starts, i * 4))
  }
  store4(out, 0, low)
  store4(out, 4, high)
}
