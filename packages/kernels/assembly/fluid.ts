/**
 * Liquids: constraints of density, as position based fluids have them (Macklin, Müller 2013), on volumes, so that liquids of several
 * densities push one another (Solenthaler, Pajarola 2008):
 *   Cᵢ = Σⱼ sⱼ³·W(xᵢ − xⱼ) + b(xᵢ) − 1 ≤ 0,  b: what walls fill (fluidKernel.ts)
 * Each has a multiplier sᵢ³·pᵢ ≥ 0, p being its pressure times h² (Pa·s²). They are found by projected Jacobi steps, damped as in Ihmsen et al.,
 * "Implicit incompressible SPH" (2014), from what they were in the substep before. Pushes are equal and opposite:
 *   Δxᵢ = −wᵢ·sᵢ³·(Σⱼ sⱼ³·(Δpᵢ + Δpⱼ)·∇W + Δpᵢ·∇b)
 *
 * Loops over neighbours are written out where they stand: rows read through the globals of rows.ts took twice as long.
 *
 * Particles stand in the order of cells: `places` are rows x y z from a corner of space, and s; `bodies` (i32) names their solver bodies, `slots` lists
 * their neighbours in fours, `wallOf` (i32 per body) their walls or −1. Behind the last stands nobody, who is out of everyone's reach.
 */
import { entriesOf, particleOf } from './cells'
import {
  BALL_OF_CELL, LEAST, OWN_SHARE, slotsAt, spline4, splineSlope4, sum4, wallShare, wallSlope,
} from './fluidKernel'
import {
  add4, column0, column1, column2, column3, divide4, dot4, gather4, load4, loadI4, multiply4, row4, splat4, splatAt4, squareRoot4, store4, subtract4, withLane,
} from './lanes'
import { bodyRow, contactPlane, fluidWall, gridEntry, MOST_FLUID_NEIGHBOURS } from './layouts'
import { planeAt } from './contactPlanes'
import { readF32, readF64, readI32, truncate, writeF32, writeI32 } from './machine'
import { entryAt, listNeighbours, listOf, squaredAt } from './neighbours'

/** Bodies as a crowd for the search of neighbours, where they would go (3 × f32) and their spacing in place of a radius; `which` (i32) names them. */
export function crowdOfFluid(
  start: i32, end: i32, which: usize, starts: usize, moved: usize, position: usize, spacing: usize,
): void {
  for (let i = start; i < end; i++) {
    const k = readI32(which, i) * bodyRow.SIZE
    for (let axis = 0; axis < 3; axis++) writeF32(position, i * 3 + axis, readF32(starts, k + axis) + readF32(moved, k + axis))
    writeF32(spacing, i, 2.0 * readF32(starts, k + bodyRow.radius))
  }
}

/**
 * Of each the others within `margin` times the support of both; of more than the list holds the nearest. `counts` are in fours. `solid` (i32 each; 0: nobody
 * is) says who is none: those do not see one another.
 */
export function listFluid(
  start: i32, end: i32, cells: usize, widest: f64, margin: f64, which: usize, solid: usize, nobody: i32, bodies: usize, counts: usize, slots: usize,
  thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let e = start; e < end; e++) {
    const i = particleOf(cells, e)
    const at = e * gridEntry.SIZE
    const s = readF32(entries, at + gridEntry.radius)
    const found = listNeighbours(
      cells, i, readF32(entries, at), readF32(entries, at + gridEntry.y), readF32(entries, at + gridEntry.z),
      margin * (s + widest), MOST_FLUID_NEIGHBOURS, thread,
    )
    const own = slotsAt(slots, e)
    let kept = 0
    for (let n = 0; n < found; n++) {
      const other = entryAt(list, n)
      const reach = margin * (s + readF32(entries, other * gridEntry.SIZE + gridEntry.radius))
      if (squaredAt(list, n) >= reach * reach) continue
      if (solid != 0 && readI32(solid, i) != 0 && readI32(solid, particleOf(cells, other)) != 0) continue
      writeI32(own, kept, other)
      kept++
    }
    writeI32(counts, e, (kept + 3) >> 2)
    for (; (kept & 3) != 0; kept++) writeI32(own, kept, nobody)
    writeI32(bodies, e, readI32(which, i))
  }
}

/** Where they are once they have gone `part` of their way, and what they give way: a particle of liquid fills its cell, not only its ball. */
export function placeFluid(
  start: i32, end: i32, bodies: usize, starts: usize, moved: usize, part: f64, lowX: f64, lowY: f64, lowZ: f64, places: usize,
  inverse: usize,
): void {
  const low = withLane(withLane(withLane(splat4(0.0), 0, lowX), 1, lowY), 2, lowZ)
  for (let e = start; e < end; e++) {
    const k = readI32(bodies, e) * bodyRow.SIZE
    const at = add4(subtract4(load4(starts, k), low), multiply4(splat4(part), load4(moved, k)))
    store4(places, e * 4, withLane(at, 3, 2.0 * readF32(starts, k + bodyRow.radius)))
    writeF32(inverse, e, BALL_OF_CELL * readF32(moved, k + bodyRow.inverseMass))
  }
}

/** The planes (contactPlane) of the particles in `pressed` as walls, the nearest first; their first body is `first`. */
export function layFluidWalls(
  start: i32, end: i32, pressed: usize, planes: usize, first: i32, base: i32, starts: usize, offsets: usize, walls: usize, wallOf: usize,
): void {
  for (let n = start; n < end; n++) {
    const i = readI32(pressed, n)
    const body = first + i
    writeI32(wallOf, body, base + n)
    const record = wallAt(walls, base + n)
    const radius = readF32(starts, body * bodyRow.SIZE + bodyRow.radius)
    let laid = 0
    for (; laid < contactPlane.COUNT; laid++) {
      const plane = planeAt(planes, i, laid)
      const collider = readF64(plane, contactPlane.collider)
      if (collider < 0.0) break
      let height = radius + readF64(offsets, truncate(collider)) - readF64(plane, contactPlane.level)
      for (let axis = 0; axis < 3; axis++) height += readF64(plane, axis) * readF32(starts, body * bodyRow.SIZE + axis)
      let at = laid
      for (; at > 0 && readF32(record, (at - 1) * fluidWall.SIZE + fluidWall.height) > height; at--) copyWall(record, at - 1, at)
      const o = at * fluidWall.SIZE
      for (let axis = 0; axis < 3; axis++) {
        writeF32(record, o + axis, readF64(plane, axis))
        writeF32(record, o + fluidWall.velocityX + axis, readF64(plane, contactPlane.velocityX + axis))
      }
      writeF32(record, o + fluidWall.height, height)
    }
    for (let k = 0; k < laid; k++) writeF32(record, k * fluidWall.SIZE + fluidWall.share, shareOf(record, k))
    for (; laid < contactPlane.COUNT; laid++) writeF32(record, laid * fluidWall.SIZE + fluidWall.share, 0.0)
  }
}
export function wallAt(walls: usize, n: i32): usize {
  return walls + ((<usize>(n * contactPlane.COUNT * fluidWall.SIZE)) << 2)
}
function copyWall(record: usize, from: i32, to: i32): void {
  for (let k = 0; k < fluidWall.SIZE; k++) writeF32(record, to * fluidWall.SIZE + k, readF32(record, from * fluidWall.SIZE + k))
}
/** What the foot of a wall stands out before nearer ones, as a share of their distance: nothing on a level floor, all in a corner. */
function shareOf(record: usize, k: i32): f64 {
  const far = readF32(record, k * fluidWall.SIZE + fluidWall.height)
  let share = 1.0
  for (let m = 0; m < k; m++) {
    const near = readF32(record, m * fluidWall.SIZE + fluidWall.height)
    let along = 0.0
    for (let axis = 0; axis < 3; axis++) along += readF32(record, k * fluidWall.SIZE + axis) * readF32(record, m * fluidWall.SIZE + axis)
    if (along > 0.0) share *= near > far * along ? 1.0 - (far * along) / near : 0.0
  }
  return share
}

/** What walls fill at a place, so many seconds before the substep ends, and its gradient there. */
let filled: f64 = 0.0
export let filledX: f64 = 0.0
export let filledY: f64 = 0.0
export let filledZ: f64 = 0.0
export function fillByWalls(wallOf: usize, walls: usize, body: i32, moved: usize, part: f64, support: f64, scale: f64, back: f64): void {
  filled = 0.0
  filledX = 0.0
  filledY = 0.0
  filledZ = 0.0
  const n = readI32(wallOf, body)
  if (n < 0) return
  const record = wallAt(walls, n)
  let free = 1.0
  for (let k = 0; k < contactPlane.COUNT; k++) {
    const o = k * fluidWall.SIZE
    const share = scale * readF32(record, o + fluidWall.share)
    if (share == 0.0) break
    let u = readF32(record, o + fluidWall.height)
    for (let axis = 0; axis < 3; axis++)
      u += readF32(record, o + axis) * (part * readF32(moved, body * bodyRow.SIZE + axis) + back * readF32(record, o + fluidWall.velocityX + axis))
    u /= support
    if (u >= 1.0) continue
    if (u < 0.0) u = 0.0
    const b = share * wallShare(u)
    const g = (share * wallSlope(u)) / support
    // what is free behind one wall is filled in part by the next: exact where two stand at right angles and the kernel is a bell curve
    const nx = readF32(record, o)
    const ny = readF32(record, o + 1)
    const nz = readF32(record, o + 2)
    filledX = filledX * (1.0 - b) + free * g * nx
    filledY = filledY * (1.0 - b) + free * g * ny
    filledZ = filledZ * (1.0 - b) + free * g * nz
    free *= 1.0 - b
  }
  filled = 1.0 - free
}

function cubeOf(s: f64): f64 {
  return s * s * s
}

/**
 * How density follows the ways of particles, where they stand half way (which is exact to the second order for what turns): of neighbours sⱼ³·∇W as three fours
 * beside each four of `slots` (`slopes`), and sⱼ³·W′/r (`gradients`); of each its own, G = Σⱼ sⱼ³·∇W + ∇b, and 1/(sᵢ³·∇Cᵢ·w·∇Cᵢ), how much pressure takes away
 * how much density, as a row of `own`.
 */
export function weighFluid(
  start: i32, end: i32, places: usize, bodies: usize, moved: usize, part: f64, inverse: usize, counts: usize, slots: usize, wallOf: usize,
  walls: usize, wallScale: f64, gradients: usize, slopes: usize, own: usize,
): void {
  for (let e = start; e < end; e++) {
    const x = splatAt4(places, e * 4)
    const y = splatAt4(places, e * 4 + 1)
    const z = splatAt4(places, e * 4 + 2)
    const s = splatAt4(places, e * 4 + 3)
    let gx = splat4(0.0)
    let gy = gx
    let gz = gx
    let others = gx
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const a = row4(places, index, 0)
      const b = row4(places, index, 1)
      const c = row4(places, index, 2)
      const d = row4(places, index, 3)
      const ax = subtract4(x, column0(a, b, c, d))
      const ay = subtract4(y, column1(a, b, c, d))
      const az = subtract4(z, column2(a, b, c, d))
      const w = column3(a, b, c, d)
      const distance = squareRoot4(add4(dot4(ax, ay, az, ax, ay, az), splat4(LEAST)))
      const g = multiply4(multiply4(w, multiply4(w, w)), splineSlope4(distance, divide4(splat4(1.0), add4(s, w))))
      const px = multiply4(g, ax)
      const py = multiply4(g, ay)
      const pz = multiply4(g, az)
      store4(gradients, e * MOST_FLUID_NEIGHBOURS + k * 4, g)
      const at = fourAt(e, k)
      store4(slopes, at, px)
      store4(slopes, at + 4, py)
      store4(slopes, at + 8, pz)
      gx = add4(gx, px)
      gy = add4(gy, py)
      gz = add4(gz, pz)
      others = add4(others, multiply4(gather4(inverse, index), dot4(px, py, pz, px, py, pz)))
    }
    fillByWalls(wallOf, walls, readI32(bodies, e), moved, part, 2.0 * readF32(places, e * 4 + 3), wallScale, 0.0)
    const ux = sum4(gx) + filledX
    const uy = sum4(gy) + filledY
    const uz = sum4(gz) + filledZ
    const all = readF32(inverse, e) * (ux * ux + uy * uy + uz * uz) + sum4(others)
    writeF32(own, e * 4, ux)
    writeF32(own, e * 4 + 1, uy)
    writeF32(own, e * 4 + 2, uz)
    writeF32(own, e * 4 + 3, all > 0.0 ? 1.0 / (all * cubeOf(readF32(places, e * 4 + 3))) : 0.0)
  }
}
function fourAt(e: i32, k: i32): i32 {
  return (e * MOST_FLUID_NEIGHBOURS + k * 4) * 3
}

/** How far each has gone in the substep, in the order of cells. */
export function gatherMoved(start: i32, end: i32, bodies: usize, moved: usize, rows: usize): void {
  for (let e = start; e < end; e++) store4(rows, e * 4, load4(moved, readI32(bodies, e) * bodyRow.SIZE))
}

/** How much they are too dense, C (f32), with walls as they are as the substep ends. */
export function compressFluid(
  start: i32, end: i32, places: usize, bodies: usize, moved: usize, part: f64, counts: usize, slots: usize, wallOf: usize, walls: usize,
  wallScale: f64, out: usize,
): void {
  for (let e = start; e < end; e++) {
    const x = splatAt4(places, e * 4)
    const y = splatAt4(places, e * 4 + 1)
    const z = splatAt4(places, e * 4 + 2)
    const s = splatAt4(places, e * 4 + 3)
    let dense = splat4(0.0)
    const own = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(own, k * 4)
      const a = row4(places, index, 0)
      const b = row4(places, index, 1)
      const c = row4(places, index, 2)
      const d = row4(places, index, 3)
      const ax = subtract4(x, column0(a, b, c, d))
      const ay = subtract4(y, column1(a, b, c, d))
      const az = subtract4(z, column2(a, b, c, d))
      const w = column3(a, b, c, d)
      const distance = squareRoot4(add4(dot4(ax, ay, az, ax, ay, az), splat4(LEAST)))
      dense = add4(dense, multiply4(multiply4(w, multiply4(w, w)), spline4(distance, divide4(splat4(1.0), add4(s, w)))))
    }
    fillByWalls(wallOf, walls, readI32(bodies, e), moved, part, 2.0 * readF32(places, e * 4 + 3), wallScale, 0.0)
    writeF32(out, e, sum4(dense) + OWN_SHARE + filled - 1.0)
  }
}

/**
 * How much too dense each is for what it may come to, of `dense` where it stands as the substep begins, walls as they are in the end, to where it
 * would be: density may not rise above what it was (walls `back` seconds before) or 1, and what is less than full closes up slowly, the slower the fuller.
 */
export function roomFluid(
  start: i32, end: i32, places: usize, bodies: usize, moved: usize, part: f64, wallOf: usize, walls: usize, wallScale: f64, back: f64, slack: f64, dense: usize,
  room: usize,
): void {
  for (let e = start; e < end; e++) {
    const support = 2.0 * readF32(places, e * 4 + 3)
    fillByWalls(wallOf, walls, readI32(bodies, e), moved, part, support, wallScale, 0.0)
    const now = filled
    fillByWalls(wallOf, walls, readI32(bodies, e), moved, part, support, wallScale, back)
    const was = readF32(dense, e) - now + filled
    let most = was
    if (was < 0.0) most = was < -slack ? 0.0 : was * (1.0 + was / slack)
    writeF32(room, e, readF32(dense, e) - most)
  }
}

/** What each has too much once all have gone as far as they have (`ways`: rows in the order of cells), `room` being what it has where it began. */
export function flowFluid(
  start: i32, end: i32, counts: usize, slots: usize, slopes: usize, own: usize, ways: usize, room: usize, out: usize,
): void {
  for (let e = start; e < end; e++) {
    let sum = splat4(0.0)
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const a = row4(ways, index, 0)
      const b = row4(ways, index, 1)
      const c = row4(ways, index, 2)
      const d = row4(ways, index, 3)
      const at = fourAt(e, k)
      const x = multiply4(load4(slopes, at), column0(a, b, c, d))
      const y = multiply4(load4(slopes, at + 4), column1(a, b, c, d))
      const z = multiply4(load4(slopes, at + 8), column2(a, b, c, d))
      sum = add4(sum, add4(add4(x, y), z))
    }
    let more = readF32(room, e) - sum4(sum)
    for (let axis = 0; axis < 3; axis++) more += readF32(own, e * 4 + axis) * readF32(ways, e * 4 + axis)
    writeF32(out, e, more)
  }
}

/** A damped step of the multipliers p, no lower than 0, against what is too much; `change` is how far they went. */
export function pressFluid(start: i32, end: i32, excess: usize, own: usize, damping: f64, pressure: usize, change: usize): void {
  for (let e = start; e < end; e++) {
    const p = readF32(pressure, e)
    const next = p + damping * readF32(own, e * 4 + 3) * readF32(excess, e)
    const held = next > 0.0 ? next : 0.0
    writeF32(pressure, e, held)
    writeF32(change, e, held - p)
  }
}

/** What a change of the multipliers moves. `inverse` is 1/kg. */
export function pushFluid(
  start: i32, end: i32, places: usize, bodies: usize, moved: usize, inverse: usize, counts: usize, slots: usize, slopes: usize, own: usize,
  change: usize,
): void {
  for (let e = start; e < end; e++) {
    const w = readF32(inverse, e) * cubeOf(readF32(places, e * 4 + 3))
    if (w == 0.0) continue
    let x = splat4(0.0)
    let y = x
    let z = x
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const p = gather4(change, loadI4(list, k * 4))
      const at = fourAt(e, k)
      x = add4(x, multiply4(p, load4(slopes, at)))
      y = add4(y, multiply4(p, load4(slopes, at + 4)))
      z = add4(z, multiply4(p, load4(slopes, at + 8)))
    }
    const p = readF32(change, e)
    const k = readI32(bodies, e) * bodyRow.SIZE
    writeF32(moved, k, readF32(moved, k) - w * (sum4(x) + p * readF32(own, e * 4)))
    writeF32(moved, k + 1, readF32(moved, k + 1) - w * (sum4(y) + p * readF32(own, e * 4 + 1)))
    writeF32(moved, k + 2, readF32(moved, k + 2) - w * (sum4(z) + p * readF32(own, e * 4 + 2)))
  }
}

/** Multipliers from the pressures (Pa, f32 per body) of the substep before; who bears one lies on something (`marks`, i32 per body). */
export function warmFluid(start: i32, end: i32, bodies: usize, pressures: usize, h: f64, pressure: usize, marks: usize): void {
  for (let e = start; e < end; e++) {
    const body = readI32(bodies, e)
    const p = readF32(pressures, body)
    writeF32(pressure, e, p * h * h)
    if (p > 0.0) writeI32(marks, body, 1)
  }
}

/** The way back, and how much too dense each is. */
export function keepFluid(
  start: i32, end: i32, bodies: usize, pressure: usize, dense: usize, h: f64, pressures: usize, compressions: usize,
): void {
  for (let e = start; e < end; e++) {
    const body = readI32(bodies, e)
    writeF32(pressures, body, readF32(pressure, e) / (h * h))
    writeF32(compressions, body, readF32(dense, e))
  }
}
