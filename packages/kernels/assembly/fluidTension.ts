/**
 * Surface tension of liquids: what is curved is pressed by σ·κ (Morris, "Simulating surface tension with smoothed particle hydrodynamics", 2000):
 *   Gᵢ = Σⱼ aᵢⱼ·sⱼ³·∇W + a·∇b,   n = −G/|G| where |G| stands out,   κ = ∇·n along the surface,   mᵢ·dv/dt = sᵢ³·σκ·Gᵢ/g
 * g is what |G| comes to beside i over that of a level layer, so that a surface pulls as hard whether it is stretched or crowded; without it a drop that swings
 * gains energy. Mean of κ and of n over neighbours keep noise out.
 * aᵢⱼ is 1 among those of one liquid, and 1 − |σᵢ − σⱼ|/(σᵢ + σⱼ) between two: their tension is the difference of both (Antonow 1907). `wettings` (f32 per entry)
 * are a: how much of a wall counts as liquid, 1 where it spreads, 0 where it is shed.
 *
 * Tables as in fluid.ts; `slopes` has sⱼ³·∇W, `gradients` sⱼ³·W′/r; `tensions` (f32 per entry, N/m; below 0: a solid, which is no surface and hides none).
 */
import { fillByWalls, filledX, filledY, filledZ } from './fluid'
import { slotsAt, sum4 } from './fluidKernel'
import {
  absolute4, add4, and4, column0, column1, column2, column3, divide4, dot4, F4, gather4, I4, less4, load4, loadI4, maximum4, multiply4, row4, select4, splat4, splatAt4,
  store4, subtract4, where4, withLane,
} from './lanes'
import { bodyRow, MOST_FLUID_NEIGHBOURS } from './layouts'
import { readF32, readI32, squareRoot, writeF32 } from './machine'

/** s·|G| of the outermost layer of a lattice with a level surface; that of the others is 0. */
const FLAT: f64 = 0.51
/** Of s·|G|, from where on a particle is of the surface in part, and from where on in full: a limit would switch pulls on and off, which drives a drop. */
const BEGINS: f64 = 0.26
const STANDS_OUT: f64 = 0.46
/** What that comes to with its neighbours, each by its nearness, as drops of eight particles to the radius press 2σ/R. */
const LEVEL: f64 = 1.17
/** Nobody is pulled harder for having few beside it: at least this share of a level layer counts. */
const SPARSE: f64 = 0.8

/** How far neighbours are of the same liquid. */
function alike(own: F4, other: F4): F4 {
  const solid = less4(other, splat4(0.0))
  const sum = maximum4(add4(own, other), splat4(1.0e-30))
  return select4(solid, splat4(1.0), subtract4(splat4(1.0), divide4(absolute4(subtract4(own, other)), sum)))
}
function fourAt(e: i32, k: i32): i32 {
  return (e * MOST_FLUID_NEIGHBOURS + k * 4) * 3
}

/** s·G as rows, turned outwards. */
export function colourFluid(
  start: i32, end: i32, places: usize, bodies: usize, moved: usize, counts: usize, slots: usize, slopes: usize, tensions: usize, wettings: usize, wallOf: usize,
  walls: usize, out: usize,
): void {
  for (let e = start; e < end; e++) {
    for (let axis = 0; axis < 4; axis++) writeF32(out, e * 4 + axis, 0.0)
    const tension = readF32(tensions, e)
    if (tension <= 0.0) continue
    const own = splat4(tension)
    let gx = splat4(0.0)
    let gy = gx
    let gz = gx
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const a = alike(own, gather4(tensions, loadI4(list, k * 4)))
      const at = fourAt(e, k)
      gx = add4(gx, multiply4(a, load4(slopes, at)))
      gy = add4(gy, multiply4(a, load4(slopes, at + 4)))
      gz = add4(gz, multiply4(a, load4(slopes, at + 8)))
    }
    const s = readF32(places, e * 4 + 3)
    fillByWalls(wallOf, walls, readI32(bodies, e), moved, 0.5, 2.0 * s, readF32(wettings, e), 0.0)
    writeF32(out, e * 4, -s * (sum4(gx) + filledX))
    writeF32(out, e * 4 + 1, -s * (sum4(gy) + filledY))
    writeF32(out, e * 4 + 2, -s * (sum4(gz) + filledZ))
  }
}

/** How much a neighbour counts, by how near it is. */
function nearness(gradients: usize, e: i32, k: i32, s: f64): F4 {
  return multiply4(splat4(-s * s), load4(gradients, e * MOST_FLUID_NEIGHBOURS + k * 4))
}
/** Lanes with the same tension as an entry, thus of its liquid. */
function same(tensions: usize, index: I4, own: F4): I4 {
  return less4(absolute4(subtract4(gather4(tensions, index), own)), splat4(1.0e-30))
}

/** Normals of the surface, rows of unit length and how far they are of it, 0 to 1: of `colours` that face the same way the mean. */
export function normalsOfFluid(
  start: i32, end: i32, places: usize, counts: usize, slots: usize, gradients: usize, tensions: usize, colours: usize, normals: usize,
): void {
  for (let e = start; e < end; e++) {
    for (let axis = 0; axis < 4; axis++) writeF32(normals, e * 4 + axis, 0.0)
    let nx = readF32(colours, e * 4)
    let ny = readF32(colours, e * 4 + 1)
    let nz = readF32(colours, e * 4 + 2)
    const steep = squareRoot(nx * nx + ny * ny + nz * nz)
    if (steep < BEGINS) continue
    const stands = steep < STANDS_OUT ? (steep - BEGINS) / (STANDS_OUT - BEGINS) : 1.0
    const s = readF32(places, e * 4 + 3)
    const own = splatAt4(tensions, e)
    const ox = splat4(nx)
    const oy = splat4(ny)
    const oz = splat4(nz)
    let x = splat4(0.0)
    let y = x
    let z = x
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const a = row4(colours, index, 0)
      const b = row4(colours, index, 1)
      const c = row4(colours, index, 2)
      const d = row4(colours, index, 3)
      const px = column0(a, b, c, d)
      const py = column1(a, b, c, d)
      const pz = column2(a, b, c, d)
      const ahead = less4(splat4(0.0), dot4(px, py, pz, ox, oy, oz))
      const weight = where4(and4(ahead, same(tensions, index, own)), nearness(gradients, e, k, s))
      x = add4(x, multiply4(weight, px))
      y = add4(y, multiply4(weight, py))
      z = add4(z, multiply4(weight, pz))
    }
    nx += sum4(x)
    ny += sum4(y)
    nz += sum4(z)
    const length = squareRoot(nx * nx + ny * ny + nz * nz)
    if (length == 0.0) continue
    writeF32(normals, e * 4, nx / length)
    writeF32(normals, e * 4 + 1, ny / length)
    writeF32(normals, e * 4 + 2, nz / length)
    writeF32(normals, e * 4 + 3, stands)
  }
}

/**
 * Curvatures of the surface, 1/m, as rows of κ, 1 and s·|G|, each by how far it is of it, and zero: of a ball of radius R 2/R, of a cylinder 1/R. How normals spread along the surface, over how far neighbours lie
 * along it, so that it does not matter how many there are.
 */
export function curveFluid(
  start: i32, end: i32, places: usize, counts: usize, slots: usize, gradients: usize, tensions: usize, colours: usize, normals: usize, curvatures: usize,
): void {
  for (let e = start; e < end; e++) {
    for (let axis = 0; axis < 4; axis++) writeF32(curvatures, e * 4 + axis, 0.0)
    if (readF32(normals, e * 4 + 3) == 0.0) continue
    const s = readF32(places, e * 4 + 3)
    const own = splatAt4(tensions, e)
    const x = splatAt4(places, e * 4)
    const y = splatAt4(places, e * 4 + 1)
    const z = splatAt4(places, e * 4 + 2)
    const nx = splatAt4(normals, e * 4)
    const ny = splatAt4(normals, e * 4 + 1)
    const nz = splatAt4(normals, e * 4 + 2)
    let spread = splat4(0.0)
    let along = spread
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const p = row4(normals, index, 0)
      const q = row4(normals, index, 1)
      const r = row4(normals, index, 2)
      const t = row4(normals, index, 3)
      const mx = column0(p, q, r, t)
      const my = column1(p, q, r, t)
      const mz = column2(p, q, r, t)
      const a = row4(places, index, 0)
      const b = row4(places, index, 1)
      const c = row4(places, index, 2)
      const d = row4(places, index, 3)
      const ax = subtract4(column0(a, b, c, d), x)
      const ay = subtract4(column1(a, b, c, d), y)
      const az = subtract4(column2(a, b, c, d), z)
      const out = dot4(ax, ay, az, nx, ny, nz)
      const weight = where4(
        and4(less4(splat4(0.0), dot4(mx, my, mz, nx, ny, nz)), same(tensions, index, own)),
        multiply4(column3(p, q, r, t), nearness(gradients, e, k, s)),
      )
      const tx = subtract4(ax, multiply4(out, nx))
      const ty = subtract4(ay, multiply4(out, ny))
      const tz = subtract4(az, multiply4(out, nz))
      spread = add4(spread, multiply4(weight, dot4(subtract4(mx, nx), subtract4(my, ny), subtract4(mz, nz), tx, ty, tz)))
      along = add4(along, multiply4(weight, dot4(tx, ty, tz, tx, ty, tz)))
    }
    const far = sum4(along)
    if (far <= 0.0) continue
    let curvature = (2.0 * sum4(spread)) / far
    // nothing is more curved than a particle
    if (curvature > 2.0 / s) curvature = 2.0 / s
    if (curvature < -2.0 / s) curvature = -2.0 / s
    const stands = readF32(normals, e * 4 + 3)
    writeF32(curvatures, e * 4, stands * curvature)
    writeF32(curvatures, e * 4 + 1, stands)
    const cx = readF32(colours, e * 4)
    const cy = readF32(colours, e * 4 + 1)
    const cz = readF32(colours, e * 4 + 2)
    writeF32(curvatures, e * 4 + 2, stands * squareRoot(cx * cx + cy * cy + cz * cz))
  }
}

/** What curvature presses, q = σκ/g in Pa, of the surface: the mean over those near. `most`: σ for a particle of 1 kg, and for heavier ones as much more. */
export function pressTension(
  start: i32, end: i32, places: usize, inverse: usize, most: f64, counts: usize, slots: usize, gradients: usize, tensions: usize, curvatures: usize, presses: usize,
): void {
  for (let e = start; e < end; e++) {
    writeF32(presses, e, 0.0)
    if (readF32(curvatures, e * 4 + 1) == 0.0) continue
    const lightness = readF32(inverse, e)
    let tension = readF32(tensions, e)
    const own = splat4(tension)
    if (tension * lightness > most) tension = most / lightness
    const s = readF32(places, e * 4 + 3)
    let sum = splat4(0.0)
    let all = sum
    let strong = sum
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const a = row4(curvatures, index, 0)
      const b = row4(curvatures, index, 1)
      const c = row4(curvatures, index, 2)
      const d = row4(curvatures, index, 3)
      const weight = where4(same(tensions, index, own), nearness(gradients, e, k, s))
      sum = add4(sum, multiply4(weight, column0(a, b, c, d)))
      all = add4(all, multiply4(weight, column1(a, b, c, d)))
      strong = add4(strong, multiply4(weight, column2(a, b, c, d)))
    }
    let level = sum4(strong) + readF32(curvatures, e * 4 + 2)
    if (level < SPARSE * LEVEL) level = SPARSE * LEVEL
    const stands = readF32(curvatures, e * 4 + 1)
    const curvature = (sum4(sum) + readF32(curvatures, e * 4)) / (sum4(all) + stands)
    writeF32(presses, e, (stands * tension * curvature * (LEVEL / FLAT)) / level)
  }
}

/** What the surface pushes in h seconds, as rows of ways (which give velocity at the end of the substep) and mass. */
export function pullSurface(
  start: i32, end: i32, places: usize, inverse: usize, colours: usize, presses: usize, h: f64, pulls: usize,
): void {
  for (let e = start; e < end; e++) {
    const s = readF32(places, e * 4 + 3)
    const w = readF32(inverse, e)
    const q = -readF32(presses, e) * h * h * w * s * s
    for (let axis = 0; axis < 3; axis++) writeF32(pulls, e * 4 + axis, q == 0.0 ? 0.0 : q * readF32(colours, e * 4 + axis))
    writeF32(pulls, e * 4 + 3, q == 0.0 ? 0.0 : 1.0 / w)
  }
}
/** Rows of ways, and `shift` more for who has any, to what bodies have moved. */
export function followPull(
  start: i32, end: i32, bodies: usize, pulls: usize, shiftX: f64, shiftY: f64, shiftZ: f64, moved: usize,
): void {
  const shift = withLane(withLane(withLane(splat4(0.0), 0, shiftX), 1, shiftY), 2, shiftZ)
  for (let e = start; e < end; e++) {
    if (readF32(pulls, e * 4 + 3) == 0.0) continue
    const k = readI32(bodies, e) * bodyRow.SIZE
    const w = readF32(moved, k + 3)
    store4(moved, k, withLane(add4(load4(moved, k), add4(load4(pulls, e * 4), shift)), 3, w))
  }
}
