/** Solver bodies against the planes that they are pressed on (contactPlanes.ts finds them), and their rest. */
import { planeAt } from './contactPlanes'
import { bodyAt, push } from './solverBodies'
import { body, contactPlane, F64, material, planeImpulse } from './layouts'
import { addWrapping, readF32, readF64, readI32, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'

/** What plane n of particle i bore. */
function impulseAt(impulses: usize, i: i32, n: i32): usize {
  return impulses + <usize>((i * contactPlane.COUNT + n) * planeImpulse.SIZE * F64)
}
/** n · what stands at `at` of a body, as its place. */
function alongNormal(plane: usize, p: usize, at: i32): f64 {
  return (
    readF64(plane, contactPlane.normalX) * readF64(p, at) +
    readF64(plane, contactPlane.normalY) * readF64(p, at + 1) +
    readF64(plane, contactPlane.normalZ) * readF64(p, at + 2)
  )
}
function pushAlong(plane: usize, p: usize, at: i32, by: f64): void {
  push(p, at, readF64(plane, contactPlane.normalX) * by, readF64(plane, contactPlane.normalY) * by, readF64(plane, contactPlane.normalZ) * by)
}

/**
 * What lies on something is moved to where its velocity at the end of the substep would have brought it, x₀ + v·h in
 * place of x₀ + v₀·h + a·h²/2. Then contact takes from its velocity, by Δx/h, all that acceleration gave it, a·h; else
 * half of that would stay, and heaps would never come to rest. What is marked, or touches a plane, lies on something.
 */
export function predictResting(
  start: i32, end: i32, bodies: usize, first: i32, marks: usize, planes: usize, startVelocity: usize, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    if (readF64(p, body.sleepState) == 1.0) continue
    let lies = readI32(marks, addWrapping(first, i)) == 1
    for (let n = 0; n < contactPlane.COUNT && planes != 0 && !lies; n++) {
      const plane = planeAt(planes, i, n)
      if (readF64(plane, contactPlane.collider) < 0.0) break
      lies = alongNormal(plane, p, body.x) < readF64(plane, contactPlane.level) + 0.001 * readF64(p, body.radius)
    }
    writeI32(marks, addWrapping(first, i), lies ? 1 : 0)
    if (!lies || startVelocity == 0) continue
    for (let axis = 0; axis < 3; axis++) {
      const gained = readF64(p, body.velocityX + axis) - readF32(startVelocity, i * 3 + axis)
      writeF64(p, body.x + axis, readF64(p, body.x + axis) + 0.5 * gained * h)
    }
  }
}

/**
 * One round against the planes of `findContactPlanes`, as between pairs. `materials`: per collider 3 f64: μₛ, μ, S. Each particle
 * writes to itself only. `impulses` holds, for 4 planes of a particle, w·λ and w·λₜ (4 f64).
 */
export function solvePlanes(
  start: i32, end: i32, bodies: usize, first: i32, planes: usize, materials: usize, impulses: usize, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    if (readF64(p, body.inverseMass) == 0.0) continue
    for (let n = 0; n < contactPlane.COUNT; n++) {
      const plane = planeAt(planes, i, n)
      const which = truncate(readF64(plane, contactPlane.collider))
      if (which < 0) break
      const px = readF64(plane, contactPlane.normalX)
      const py = readF64(plane, contactPlane.normalY)
      const pz = readF64(plane, contactPlane.normalZ)
      // no deeper than it was as the substep began, where the surface has since gone on
      const level = readF64(plane, contactPlane.level)
      const was =
        px * (readF64(p, body.startX) + readF64(plane, contactPlane.velocityX) * h) +
        py * (readF64(p, body.startY) + readF64(plane, contactPlane.velocityY) * h) +
        pz * (readF64(p, body.startZ) + readF64(plane, contactPlane.velocityZ) * h)
      const gap = px * readF64(p, body.x) + py * readF64(p, body.y) + pz * readF64(p, body.z) - (was < level ? was : level)
      const impulse = impulseAt(impulses, i, n)
      const before = readF64(impulse, planeImpulse.normal)
      const pull = readF64(materials, which * material.SIZE + material.stickiness) * h * h
      const lambda = before - gap > 0.0 ? before - gap : 0.0
      if (lambda == 0.0 && before == 0.0) continue
      writeF64(impulse, planeImpulse.normal, lambda)
      push(p, body.x, px * (lambda - before), py * (lambda - before), pz * (lambda - before))
      let sx = readF64(p, body.x) - readF64(p, body.startX) - readF64(plane, contactPlane.velocityX) * h
      let sy = readF64(p, body.y) - readF64(p, body.startY) - readF64(plane, contactPlane.velocityY) * h
      let sz = readF64(p, body.z) - readF64(p, body.startZ) - readF64(plane, contactPlane.velocityZ) * h
      const along = sx * px + sy * py + sz * pz
      sx = readF64(impulse, planeImpulse.tangentX) - sx + px * along
      sy = readF64(impulse, planeImpulse.tangentY) - sy + py * along
      sz = readF64(impulse, planeImpulse.tangentZ) - sz + pz * along
      const length = squareRoot(sx * sx + sy * sy + sz * sz)
      if (length > readF64(materials, which * material.SIZE + material.staticFriction) * (lambda + pull)) {
        const share = (readF64(materials, which * material.SIZE + material.friction) * (lambda + pull)) / length
        sx *= share
        sy *= share
        sz *= share
      }
      push(p, body.x, sx - readF64(impulse, planeImpulse.tangentX), sy - readF64(impulse, planeImpulse.tangentY), sz - readF64(impulse, planeImpulse.tangentZ))
      writeF64(impulse, planeImpulse.tangentX, sx)
      writeF64(impulse, planeImpulse.tangentY, sy)
      writeF64(impulse, planeImpulse.tangentZ, sz)
    }
  }
}

/** One round of moving out what is still pressed into planes, by the share `firm`, with no velocity from it. */
export function depenetratePlanes(start: i32, end: i32, bodies: usize, first: i32, planes: usize, firm: f64): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    if (readF64(p, body.inverseMass) == 0.0) continue
    for (let n = 0; n < contactPlane.COUNT; n++) {
      const plane = planeAt(planes, i, n)
      if (readF64(plane, contactPlane.collider) < 0.0) break
      const deep = firm * (readF64(plane, contactPlane.level) - alongNormal(plane, p, body.x))
      if (deep > 0.0) pushAlong(plane, p, body.x, deep)
    }
  }
}

/** Velocities after planes: none into them. */
export function solvePlaneVelocities(
  start: i32, end: i32, bodies: usize, first: i32, planes: usize, materials: usize, impulses: usize,
): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    if (readF64(p, body.inverseMass) == 0.0) continue
    for (let n = 0; n < contactPlane.COUNT; n++) {
      const plane = planeAt(planes, i, n)
      const which = truncate(readF64(plane, contactPlane.collider))
      if (which < 0) break
      if (readF64(impulseAt(impulses, i, n), planeImpulse.normal) == 0.0) continue
      const vx = readF64(plane, contactPlane.velocityX)
      const vy = readF64(plane, contactPlane.velocityY)
      const vz = readF64(plane, contactPlane.velocityZ)
      const now =
        readF64(plane, contactPlane.normalX) * (readF64(p, body.velocityX) - vx) +
        readF64(plane, contactPlane.normalY) * (readF64(p, body.velocityY) - vy) +
        readF64(plane, contactPlane.normalZ) * (readF64(p, body.velocityZ) - vz)
      if (now >= 0.0) continue
      const change = -now
      pushAlong(plane, p, body.velocityX, change)
      const tx = readF64(p, body.velocityX) - vx
      const ty = readF64(p, body.velocityY) - vy
      const tz = readF64(p, body.velocityZ) - vz
      const speed = squareRoot(tx * tx + ty * ty + tz * tz)
      if (speed == 0.0) continue
      const still = readF64(materials, which * material.SIZE + material.staticFriction)
      const sliding = readF64(materials, which * material.SIZE + material.friction) * change
      const share = speed <= still * change || sliding >= speed ? 1.0 : sliding / speed
      push(p, body.velocityX, -tx * share, -ty * share, -tz * share)
    }
  }
}

/**
 * Who has moved slower than `speed` for `wait` seconds with something to lie on goes to sleep; who has nothing to lie
 * on any more, or lies on something that moves, wakes. `restTime` counts the seconds.
 */
export function updateSleep(
  start: i32, end: i32, bodies: usize, first: i32, touches: usize, contactNormal: usize, planes: usize, amount: usize, restTime: usize,
  phaseAge: usize, speed: f64, wait: f64, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    const vx = readF64(p, body.velocityX)
    const vy = readF64(p, body.velocityY)
    const vz = readF64(p, body.velocityZ)
    let lies = readI32(touches, addWrapping(first, i)) > 0 ||
      readF32(contactNormal, i * 3) != 0.0 || readF32(contactNormal, i * 3 + 1) != 0.0 || readF32(contactNormal, i * 3 + 2) != 0.0
    let carried = false
    if (planes != 0) {
      for (let n = 0; n < contactPlane.COUNT; n++) {
        const plane = planeAt(planes, i, n)
        if (readF64(plane, contactPlane.collider) < 0.0) break
        lies = true
        const ux = readF64(plane, contactPlane.velocityX)
        const uy = readF64(plane, contactPlane.velocityY)
        const uz = readF64(plane, contactPlane.velocityZ)
        if (ux * ux + uy * uy + uz * uz > speed * speed) carried = true
      }
    }
    const slow = vx * vx + vy * vy + vz * vz < speed * speed
    const rests = slow && lies && !carried && readF64(p, body.sleepState) != 2.0 && readF32(amount, i) > 0.0 && readF32(phaseAge, i) > h
    const before = readF32(restTime, i)
    // one that sleeps needs no more than it has
    writeF32(restTime, i, rests ? (before + h > 2.0 * wait ? 2.0 * wait : before + h) : 0.0)
  }
}
