/**
 * Links: distance constraints C = |xₐ − x_b| − L with compliance α (m/N), 0 rigid.
 *
 * Source: Macklin, Müller, Chentanez, "XPBD" (2016), eqs. 18 and 26: with α̃ = α/h² and, for the damping, γ = τ/h,
 *
 *   Δλ = (−C − α̃·λ − γ·∇C·(x − x₀)) / ((1 + γ)(wₐ + w_b) + α̃),   Δx = w·∇C·Δλ
 *
 * so that stiffness depends on α and neither on h nor on the rounds. τ = α·β is the time of Kelvin and Voigt in which
 * a stretched link creeps back. Solved one after the other: the stretch of a chain reaches its end in one round.
 *
 * `links`, 10 f64 each: 0, 1 ids; 2, 3 places in the bodies (−1: that particle is gone); 4 length at rest L; 5 the same
 * as it was made; 6 stretch at which it breaks; 7 λ; 8 stretch now; 9 1 while it holds.
 */
import { body, F64, link, treeStack } from './layouts'
import { addWrapping, readF32, readF64, readI32, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'
import { bodyAt } from './solverBodies'
import { piercesTree } from './sweep'

function linkAt(links: usize, n: i32): usize {
  return links + <usize>(n * link.SIZE * F64)
}

export function startLinks(links: usize, from: i32, to: i32): void {
  for (let n = from; n < to; n++) writeF64(linkAt(links, n), link.impulse, 0.0)
}

/**
 * One round. α = (`compliance` + `soft`·L·(wₐ + w_b))/strength, in m/N: with soft = σ/2g a link stretches by the share σ
 * under the weight of one of its ends. `damping` is τ in seconds. `amounts` (f32) are those of the population whose
 * places begin at `first`; the strength of a link is the lesser of its ends'.
 */
export function solveLinks(
  links: usize, from: i32, to: i32, bodies: usize, amounts: usize, first: i32,
  compliance: f64, soft: f64, damping: f64, h: f64, backward: i32,
): void {
  const gamma = damping / h
  const perSquare = 1.0 / (h * h)
  for (let k = from; k < to; k++) {
    const record = linkAt(links, backward == 1 ? to - 1 - (k - from) : k)
    if (readF64(record, link.holds) == 0.0) continue
    const i = truncate(readF64(record, link.bodyA))
    const j = truncate(readF64(record, link.bodyB))
    const one = readF32(amounts, i - first)
    const other = readF32(amounts, j - first)
    const strength = one < other ? one : other
    if (strength <= 0.0) continue
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    const wa = readF64(a, body.inverseMass)
    const wb = readF64(b, body.inverseMass)
    const w = wa + wb
    if (w == 0.0) continue
    let nx = readF64(a, body.x) - readF64(b, body.x)
    let ny = readF64(a, body.y) - readF64(b, body.y)
    let nz = readF64(a, body.z) - readF64(b, body.z)
    const d = squareRoot(nx * nx + ny * ny + nz * nz)
    if (d < 1.0e-12) continue
    nx /= d
    ny /= d
    nz /= d
    const rest = readF64(record, link.restLength)
    const c = d - rest
    const alpha = ((compliance + soft * rest * w) * perSquare) / strength
    const lambda = readF64(record, link.impulse)
    let moved = 0.0
    if (gamma > 0.0) {
      moved =
        nx * (readF64(a, body.x) - readF64(a, body.startX) - readF64(b, body.x) + readF64(b, body.startX)) +
        ny * (readF64(a, body.y) - readF64(a, body.startY) - readF64(b, body.y) + readF64(b, body.startY)) +
        nz * (readF64(a, body.z) - readF64(a, body.startZ) - readF64(b, body.z) + readF64(b, body.startZ))
    }
    const step = (-c - alpha * lambda - gamma * moved) / ((1.0 + gamma) * w + alpha)
    writeF64(record, link.impulse, lambda + step)
    move(a, nx, ny, nz, step * wa)
    move(b, nx, ny, nz, -step * wb)
  }
}

/** Half of the velocity that links gave in this substep, m/s: halfKick += w·n·λ/2h. 3 × f32 per particle. */
export function halfKickOfLinks(
  links: usize, from: i32, to: i32, bodies: usize, first: i32, h: f64, halfKick: usize,
): void {
  for (let n = from; n < to; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) == 0.0) continue
    const i = truncate(readF64(record, link.bodyA))
    const j = truncate(readF64(record, link.bodyB))
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    const x = readF64(a, body.x) - readF64(b, body.x)
    const y = readF64(a, body.y) - readF64(b, body.y)
    const z = readF64(a, body.z) - readF64(b, body.z)
    const d = squareRoot(x * x + y * y + z * z)
    if (d < 1.0e-12) continue
    const by = (0.5 * readF64(record, link.impulse)) / (d * h)
    addTo(halfKick, i - first, x, y, z, by * readF64(a, body.inverseMass))
    addTo(halfKick, j - first, x, y, z, -by * readF64(b, body.inverseMass))
  }
}
function addTo(pull: usize, i: i32, x: f64, y: f64, z: f64, by: f64): void {
  writeF32(pull, i * 3, readF32(pull, i * 3) + x * by)
  writeF32(pull, i * 3 + 1, readF32(pull, i * 3 + 1) + y * by)
  writeF32(pull, i * 3 + 2, readF32(pull, i * 3 + 2) + z * by)
}
/** column += factor·halfKick, 3 × f32. */
export function addHalfKick(start: i32, end: i32, column: usize, halfKick: usize, factor: f64): void {
  for (let k = start * 3; k < end * 3; k++) writeF32(column, k, readF32(column, k) + factor * readF32(halfKick, k))
}
/** What lies on something (marked, see `predictResting`) needs no such correction. */
export function clearHalfKick(start: i32, end: i32, marks: usize, first: i32, halfKick: usize): void {
  for (let i = start; i < end; i++) {
    if (readI32(marks, addWrapping(first, i)) == 0) continue
    for (let axis = 0; axis < 3; axis++) writeF32(halfKick, i * 3 + axis, 0.0)
  }
}
function move(p: usize, nx: f64, ny: f64, nz: f64, by: f64): void {
  writeF64(p, body.x, readF64(p, body.x) + nx * by)
  writeF64(p, body.y, readF64(p, body.y) + ny * by)
  writeF64(p, body.z, readF64(p, body.z) + nz * by)
}

/**
 * After the rounds: the stretch of each; those beyond what they bear break; beyond `yields` the length at rest follows
 * by the share `creep`. Returns how many broke.
 */
export function strainLinks(
  links: usize, from: i32, to: i32, bodies: usize, breaks: f64, yields: f64, creep: f64,
): i32 {
  let broken = 0
  for (let n = from; n < to; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) == 0.0) continue
    const a = bodyAt(bodies, truncate(readF64(record, link.bodyA)))
    const b = bodyAt(bodies, truncate(readF64(record, link.bodyB)))
    const x = readF64(a, body.x) - readF64(b, body.x)
    const y = readF64(a, body.y) - readF64(b, body.y)
    const z = readF64(a, body.z) - readF64(b, body.z)
    const d = squareRoot(x * x + y * y + z * z)
    const first = readF64(record, link.madeLength)
    const stretch = d / first - 1.0
    writeF64(record, link.stretch, stretch)
    if (breaks > 0.0 && stretch > breaks * readF64(record, link.breakFactor)) {
      writeF64(record, link.holds, 0.0)
      broken++
      continue
    }
    if (creep == 0.0) continue
    const rest = readF64(record, link.restLength)
    const over = d / rest - 1.0
    const beyond = over > yields ? over - yields : over < -yields ? over + yields : 0.0
    if (beyond != 0.0) writeF64(record, link.restLength, rest * (1.0 + beyond * creep))
  }
  return broken
}

/** Σ ½·α·F² of links that hold, joule, with the force F = λ/h²; rigid ones have none. */
export function energyOfLinks(links: usize, from: i32, to: i32, bodies: usize, compliance: f64, soft: f64, h: f64): f64 {
  let sum = 0.0
  for (let n = from; n < to; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) != 1.0) continue
    const a = bodyAt(bodies, truncate(readF64(record, link.bodyA)))
    const b = bodyAt(bodies, truncate(readF64(record, link.bodyB)))
    const alpha = compliance + soft * readF64(record, link.restLength) * (readF64(a, body.inverseMass) + readF64(b, body.inverseMass))
    const force = readF64(record, link.impulse) / (h * h)
    sum += 0.5 * alpha * force * force
  }
  return sum
}

/**
 * Links through which the surface of a mesh passes are cut: where a triangle lies between the two ends, now or half a
 * substep ago. `into` is the map of the world into the tree's frame (12 f64). Each writes to itself only.
 */
export function cutLinks(
  start: i32, end: i32, links: usize, from: i32, bodies: usize,
  quads: usize, vertices: usize, stack: usize, into: usize, back: usize, thread: i32,
): void {
  for (let n = start; n < end; n++) {
    const record = linkAt(links, n + from)
    if (readF64(record, link.holds) != 1.0) continue
    const a = bodyAt(bodies, truncate(readF64(record, link.bodyA)))
    const b = bodyAt(bodies, truncate(readF64(record, link.bodyB)))
    for (let half = 0; half < 2; half++) {
      // half a substep ago the surface was half its way back, which is the same as the ends that way forth
      const map = half == 0 ? into : back
      const at = half == 0 ? 0.0 : 0.5
      const ax = middle(a, 0, at)
      const ay = middle(a, 1, at)
      const az = middle(a, 2, at)
      const px = row(map, 0, ax, ay, az)
      const py = row(map, 4, ax, ay, az)
      const pz = row(map, 8, ax, ay, az)
      const bx = middle(b, 0, at)
      const by = middle(b, 1, at)
      const bz = middle(b, 2, at)
      const dx = row(map, 0, bx, by, bz) - px
      const dy = row(map, 4, bx, by, bz) - py
      const dz = row(map, 8, bx, by, bz) - pz
      if (piercesTree(quads, vertices, stack, thread * treeStack.SIZE, px, py, pz, dx, dy, dz)) {
        writeF64(record, link.holds, 2.0)
        break
      }
    }
  }
}
function middle(p: usize, axis: i32, share: f64): f64 {
  return readF64(p, body.x + axis) + (readF64(p, body.startX + axis) - readF64(p, body.x + axis)) * share
}
function row(map: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return readF64(map, at) * x + readF64(map, at + 1) * y + readF64(map, at + 2) * z + readF64(map, at + 3)
}

/** Partners of every particle by links that hold: `first` (i32, particles + 1) and `partners` (i32, 2 per link). */
export function linkPartners(links: usize, count: i32, particles: i32, first: usize, partners: usize): void {
  for (let i = 0; i <= particles; i++) writeI32(first, i, 0)
  for (let n = 0; n < count; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) == 0.0) continue
    for (let side = 0; side < 2; side++) {
      const i = truncate(readF64(record, link.bodyA + side)) + 1
      writeI32(first, i, readI32(first, i) + 1)
    }
  }
  for (let i = 1; i <= particles; i++) writeI32(first, i, readI32(first, i) + readI32(first, i - 1))
  for (let n = count - 1; n >= 0; n--) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) == 0.0) continue
    for (let side = 0; side < 2; side++) {
      const i = truncate(readF64(record, link.bodyA + side))
      const at = readI32(first, i + 1) - 1
      writeI32(first, i + 1, at)
      writeI32(partners, at, truncate(readF64(record, link.bodyB - side)))
    }
  }
  // what was counted down stands one place on
  for (let i = 0; i < particles; i++) writeI32(first, i, readI32(first, i + 1))
  writeI32(first, particles, 2 * holding(links, count))
}
function holding(links: usize, count: i32): i32 {
  let all = 0
  for (let n = 0; n < count; n++) if (readF64(linkAt(links, n), link.holds) != 0.0) all++
  return all
}
