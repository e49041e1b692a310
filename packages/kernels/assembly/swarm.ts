/**
 * What particles do to one another. Each sums over its neighbours and writes only to itself; A, C and K as in
 * integrate.ts. `amount` is an f32 per particle: weight(phase) × strength(t) × Π responses.
 */
import { entriesOf, particleOf, velocitiesOf } from './cells'
import { entryAt, listNeighbours, listOf, squaredAt } from './neighbours'
import { gridEntry } from './layouts'
import { readF32, readF64, readI32, squareRoot, writeF32, writeI32 } from './machine'

export function add(column: usize, i: i32, x: f64, y: f64, z: f64): void {
  writeF32(column, i * 3, readF32(column, i * 3) + x)
  writeF32(column, i * 3 + 1, readF32(column, i * 3 + 1) + y)
  writeF32(column, i * 3 + 2, readF32(column, i * 3 + 2) + z)
}
function factor(pointer: usize, i: i32): f64 {
  return pointer != 0 ? readF32(pointer, i) : 1.0
}

/**
 * Flock. Source: Reynolds, "Flocks, herds, and schools" (1987) and "Steering behaviors for autonomous
 * characters" (1999), of the neighbours j within `reach` that it sees:
 *   separation  A += s·Σ û·(S/r − 1)   for r < S, û pointing away from j: the published weight 1/r, less what
 *                                        it would be at S, so that it begins without a jump
 *   alignment   A += a·mean(v_j), C += a
 *   cohesion    A += c·(mean(x_j) − x), K += c
 * s in m/s², a in 1/s, c in 1/s². It sees j when the angle to its heading has a cosine of at least `view`.
 * The neighbours within S count for separation even where `most` nearer ones fill the list.
 */
export function flock(
  start: i32, end: i32, amount: usize, cells: usize, own: i32, position: usize, startPosition: usize, velocity: usize,
  acceleration: usize, damping: usize, stiffness: usize,
  reach: f64, separate: f64, most: i32, view: f64, s: f64, a: f64, c: f64,
  sFactor: usize, aFactor: usize, cFactor: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  const wide = separate > reach ? separate : reach
  const places = own == 1 ? entries : position
  const velocities = own == 1 ? velocitiesOf(cells) : velocity
  for (let turn = start; turn < end; turn++) {
    const i = own == 1 ? particleOf(cells, turn) : turn
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const at = own == 1 ? turn * gridEntry.SIZE : i * 3
    const x = readF32(places, at)
    const y = readF32(places, at + 1)
    const z = readF32(places, at + 2)
    const vx = readF32(velocities, at)
    const vy = readF32(velocities, at + 1)
    const vz = readF32(velocities, at + 2)
    const speed = squareRoot(vx * vx + vy * vy + vz * vz)
    const found = listNeighbours(cells, own == 1 ? i : -1, x, y, z, wide, most, thread)
    let seen = 0.0
    let ax = 0.0
    let ay = 0.0
    let az = 0.0
    let mx = 0.0
    let my = 0.0
    let mz = 0.0
    let ux = 0.0
    let uy = 0.0
    let uz = 0.0
    for (let k = 0; k < found; k++) {
      const e = entryAt(list, k) * gridEntry.SIZE
      const r = squareRoot(squaredAt(list, k))
      const dx = readF32(entries, e) - x
      const dy = readF32(entries, e + gridEntry.y) - y
      const dz = readF32(entries, e + gridEntry.z) - z
      if (speed > 0.0 && view > -1.0 && dx * vx + dy * vy + dz * vz < view * r * speed) continue
      if (r < separate && r > 0.0) {
        // nearer than a twentieth it pushes no harder
        const near = r < 0.05 * separate ? 0.05 * separate : r
        const push = (separate / near - 1.0) / r
        ax -= dx * push
        ay -= dy * push
        az -= dz * push
      }
      if (r > reach) continue
      seen += 1.0
      mx += dx
      my += dy
      mz += dz
      ux += readF32(entries, e + gridEntry.velocityX)
      uy += readF32(entries, e + gridEntry.velocityY)
      uz += readF32(entries, e + gridEntry.velocityZ)
    }
    const sw = w * s * factor(sFactor, i)
    add(acceleration, i, sw * ax, sw * ay, sw * az)
    if (seen == 0.0) continue
    const aw = w * a * factor(aFactor, i)
    const cw = w * c * factor(cFactor, i)
    // the mean place as seen from x₀, where K is centred
    add(
      acceleration, i,
      (aw * ux) / seen + cw * (mx / seen + x - readF32(startPosition, i * 3)),
      (aw * uy) / seen + cw * (my / seen + y - readF32(startPosition, i * 3 + 1)),
      (aw * uz) / seen + cw * (mz / seen + z - readF32(startPosition, i * 3 + 2)),
    )
    writeF32(damping, i, readF32(damping, i) + aw)
    writeF32(stiffness, i, readF32(stiffness, i) + (cw > 0.0 ? cw : 0.0))
  }
}

/**
 * Attract and repel one another, with û pointing to the neighbour at the distance r:
 *   r < P       A −= p·(1 − r/P)·û
 *   P ≤ r < Q   A += q·4·t·(1 − t)·û,  t = (r − P)/(Q − P)
 * Both are 0 at P, so that a pair comes to rest there. p, q in m/s²; P ("near") and Q ("far") in metres.
 *
 * A pair acts on both: who is among the `most` neighbours of another counts it too (`slots`, i32, −1 at the end; and
 * the others from `first`[i] to `first`[i + 1] in `list`). Were the cap to choose sides rather than pairs, a clump would
 * move itself (0.7 m in 10 s) and warm up.
 */
export function attractMutually(
  start: i32, end: i32, amount: usize, slots: usize, most: i32, first: usize, list: usize, position: usize,
  acceleration: usize, near: f64, far: f64, p: f64, q: f64, pFactor: usize, qFactor: usize,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const push = p * factor(pFactor, i)
    const pull = q * factor(qFactor, i)
    sumX = 0.0
    sumY = 0.0
    sumZ = 0.0
    for (let k = 0; k < most; k++) {
      const j = readI32(slots, i * most + k)
      if (j < 0) break
      addMutual(i, j, position, near, far, push, pull)
    }
    const stop = readI32(first, i + 1)
    for (let k = readI32(first, i); k < stop; k++) addMutual(i, readI32(list, k), position, near, far, push, pull)
    add(acceleration, i, w * sumX, w * sumY, w * sumZ)
  }
}
let sumX: f64 = 0.0
let sumY: f64 = 0.0
let sumZ: f64 = 0.0
function addMutual(i: i32, j: i32, position: usize, near: f64, far: f64, push: f64, pull: f64): void {
  const x = readF32(position, j * 3) - readF32(position, i * 3)
  const y = readF32(position, j * 3 + 1) - readF32(position, i * 3 + 1)
  const z = readF32(position, j * 3 + 2) - readF32(position, i * 3 + 2)
  const r = squareRoot(x * x + y * y + z * z)
  const size = mutualPull(r, near, far, push, pull)
  if (r > 0.0) {
    sumX += (size * x) / r
    sumY += (size * y) / r
    sumZ += (size * z) / r
  } else sumX += i < j ? size : -size
}
function mutualPull(r: f64, near: f64, far: f64, push: f64, pull: f64): f64 {
  if (r < near) return -push * (1.0 - r / near)
  if (r >= far) return 0.0
  const t = (r - near) / (far - near)
  return pull * 4.0 * t * (1.0 - t)
}

/** The same towards particles of another population, which feel nothing of it. */
export function attractToOthers(
  start: i32, end: i32, amount: usize, cells: usize, position: usize, acceleration: usize,
  near: f64, far: f64, most: i32, p: f64, q: f64, pFactor: usize, qFactor: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  const wide = far > near ? far : near
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const x = readF32(position, i * 3)
    const y = readF32(position, i * 3 + 1)
    const z = readF32(position, i * 3 + 2)
    const found = listNeighbours(cells, -1, x, y, z, wide, most, thread)
    const push = p * factor(pFactor, i)
    const pull = q * factor(qFactor, i)
    sumX = 0.0
    sumY = 0.0
    sumZ = 0.0
    for (let k = 0; k < found; k++) {
      const e = entryAt(list, k) * gridEntry.SIZE
      const r = squareRoot(squaredAt(list, k))
      if (r == 0.0) continue
      const size = mutualPull(r, near, far, push, pull) / r
      sumX += size * (readF32(entries, e) - x)
      sumY += size * (readF32(entries, e + gridEntry.y) - y)
      sumZ += size * (readF32(entries, e + gridEntry.z) - z)
    }
    add(acceleration, i, w * sumX, w * sumY, w * sumZ)
  }
}

/**
 * Who counts a particle without being counted by it: of the pairs in `slots` (most i32 each, −1 at the end) those that
 * stand only on one side, for the other one. Fills `first` (i32, count + 1) and `list`; returns how many.
 */
export function oneSidedNeighbours(count: i32, most: i32, slots: usize, first: usize, list: usize): i32 {
  for (let i = 0; i <= count; i++) writeI32(first, i, 0)
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < most; k++) {
      const j = readI32(slots, i * most + k)
      if (j < 0) break
      if (!isIn(slots, most, j, i)) writeI32(first, j + 1, readI32(first, j + 1) + 1)
    }
  }
  for (let i = 1; i <= count; i++) writeI32(first, i, readI32(first, i) + readI32(first, i - 1))
  const all = readI32(first, count)
  for (let i = count - 1; i >= 0; i--) {
    for (let k = most - 1; k >= 0; k--) {
      const j = readI32(slots, i * most + k)
      if (j < 0 || isIn(slots, most, j, i)) continue
      // counted down from the end, which leaves `first` one place on
      const at = readI32(first, j + 1) - 1
      writeI32(first, j + 1, at)
      writeI32(list, at, i)
    }
  }
  for (let i = 0; i < count; i++) writeI32(first, i, readI32(first, i + 1))
  writeI32(first, count, all)
  return all
}
function isIn(slots: usize, most: i32, i: i32, wanted: i32): boolean {
  for (let k = 0; k < most; k++) {
    const j = readI32(slots, i * most + k)
    if (j < 0) return false
    if (j == wanted) return true
  }
  return false
}

/**
 * How crowded it is about each particle, per m² as seen from above: Σ 3/(πR²)·(1 − r/R) over others within R ("reach"),
 * a cone whose volume is 1. Adds to `out` (f32).
 */
export function crowding(
  start: i32, end: i32, cells: usize, own: i32, position: usize, reach: f64, out: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let i = start; i < end; i++) {
    const x = readF32(position, i * 3)
    const z = readF32(position, i * 3 + 2)
    const found = listNeighbours(cells, own == 1 ? i : -1, x, readF32(position, i * 3 + 1), z, reach, 256, thread)
    let sum = 0.0
    for (let k = 0; k < found; k++) {
      const e = entryAt(list, k) * gridEntry.SIZE
      const dx = readF32(entries, e) - x
      const dz = readF32(entries, e + gridEntry.z) - z
      const r = squareRoot(dx * dx + dz * dz) / reach
      if (r < 1.0) sum += 1.0 - r
    }
    writeF32(out, i, readF32(out, i) + (sum * 3.0) / (3.141592653589793 * reach * reach))
  }
}

/** Velocities of those found, each by 1 − r/reach, into sumX to sumZ; gives the sum of their weights. */
function sumVelocities(entries: usize, list: usize, found: i32, reach: f64): f64 {
  let sum = 0.0
  sumX = 0.0
  sumY = 0.0
  sumZ = 0.0
  for (let k = 0; k < found; k++) {
    const e = entryAt(list, k) * gridEntry.SIZE
    const near = 1.0 - squareRoot(squaredAt(list, k)) / reach
    sum += near
    sumX += near * readF32(entries, e + gridEntry.velocityX)
    sumY += near * readF32(entries, e + gridEntry.velocityY)
    sumZ += near * readF32(entries, e + gridEntry.velocityZ)
  }
  return sum
}

/**
 * What goes along with a liquid of another population, by how much of the ball of radius `reach` about it is full of it, φ (Ihmsen et al., "Unified spray, foam and air
 * bubbles for particle-based fluids", 2012): spray (φ up to 0.1) flies; foam and bubbles take the velocity of what is near, and who has more of it about than the surface has rises:
 * dv/dt = w·c(φ)·(v̄ + rise·b(φ)·up − v). `full` is Σ (1 − r/reach) within the liquid; `riseFactor` 0 or f32 per particle; `up` is of unit length.
 */
export function carryFroth(
  start: i32, end: i32, amount: usize, cells: usize, position: usize, acceleration: usize, damping: usize, reach: f64, full: f64,
  rise: f64, riseFactor: usize, upX: f64, upY: f64, upZ: f64, most: i32, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const found = listNeighbours(
      cells, -1, readF32(position, i * 3), readF32(position, i * 3 + 1), readF32(position, i * 3 + 2), reach, most, thread,
    )
    const sum = sumVelocities(entries, list, found, reach)
    const share = sum / full
    if (share <= 0.1) continue
    const carried = w * (share < 0.3 ? (share - 0.1) / 0.2 : 1.0)
    const deep = share < 0.4 ? 0.0 : share < 0.7 ? (share - 0.4) / 0.3 : 1.0
    const up = rise * factor(riseFactor, i) * deep
    add(acceleration, i, carried * (sumX / sum + up * upX), carried * (sumY / sum + up * upY), carried * (sumZ / sum + up * upZ))
    writeF32(damping, i, readF32(damping, i) + carried)
  }
}

/**
 * Friction between neighbours: dv/dt = w·(v̄ − v), v̄ the mean of their velocities weighted by 1 − r/reach: the
 * velocity smoothing of Monaghan, "On the problem of penetration in particle methods" (1989), solved
 * implicitly. A += w·v̄, C += w.
 */
export function calm(
  start: i32, end: i32, amount: usize, cells: usize, own: i32, position: usize, acceleration: usize, damping: usize,
  reach: f64, most: i32, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  const places = own == 1 ? entries : position
  for (let turn = start; turn < end; turn++) {
    const i = own == 1 ? particleOf(cells, turn) : turn
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const at = own == 1 ? turn * gridEntry.SIZE : i * 3
    const found = listNeighbours(
      cells, own == 1 ? i : -1, readF32(places, at), readF32(places, at + 1), readF32(places, at + 2), reach, most, thread,
    )
    const sum = sumVelocities(entries, list, found, reach)
    if (sum < 1.0e-9) continue
    add(acceleration, i, (w * sumX) / sum, (w * sumY) / sum, (w * sumZ) / sum)
    writeF32(damping, i, readF32(damping, i) + w)
  }
}
