/** Solver bodies against the planes that they are pressed on (contactPlanes.ts finds them), four at a time, and their rest. */
import { factor } from './colliders'
import { planeAt } from './contactPlanes'
import { bodyRow, collider, contactPlane, F32, planeGroup, planeStep, sleepState } from './layouts'
import {
  add4, and4, any4, divide4, dot4, length4, less4, load4, loadI4, maximum4, minimum4, multiply4, notEqual4, or4, select4, splat4,
  store4, subtract4, where4, F4,
} from './lanes'
import { readF32, readF64, readI32, truncate, writeF32, writeI32 } from './machine'
import { readRows, rowW, rowX, rowY, rowZ, writeRows } from './rows'

/** Numbers (i32) of the particles that have a plane. Returns how many. */
export function selectPressed(count: i32, planes: usize, out: usize): i32 {
  let found = 0
  for (let i = 0; i < count; i++) {
    if (readF64(planeAt(planes, i, 0), contactPlane.collider) < 0.0) continue
    writeI32(out, found, i)
    found++
  }
  return found
}

function groupAt(groups: usize, n: i32): usize {
  return groups + <usize>(n * planeGroup.SIZE * F32)
}
function stepOf(group: usize, n: i32): usize {
  return group + <usize>((planeGroup.FIRST + n * planeStep.SIZE) * F32)
}
/** Planes whose normals have a cosine below this are solved together: one after the other they would need many rounds. */
const OPPOSED: f64 = -0.5
/** Into a surface that is so far off nothing is pressed. */
const FAR_OFF: f64 = 1.0e30

/**
 * The planes (contactPlane) of the particles in `pressed` in groups of four. Their first body is `first`; `materials`: per collider 3 f64,
 * μₛ, μ, S. `marks` (i32 per body) is set to 1 for who touches a plane.
 */
export function startPlanes(
  start: i32, end: i32, pressed: usize, pressedCount: i32, first: i32, nobody: i32, planes: usize, colliders: usize, starts: usize,
  moved: usize, marks: usize, h: f64, groups: usize,
): void {
  for (let g = start; g < end; g++) {
    const group = groupAt(groups, g)
    let most = 0
    for (let lane = 0; lane < 4; lane++) {
      const n = g * 4 + lane
      const i = n < pressedCount ? readI32(pressed, n) : -1
      writeI32(group, planeGroup.body + lane, i < 0 ? nobody : first + i)
      let found = 0
      for (; i >= 0 && found < contactPlane.COUNT; found++) {
        const plane = planeAt(planes, i, found)
        if (readF64(plane, contactPlane.collider) < 0.0) break
        if (startPlane(stepOf(group, found), lane, first + i, plane, colliders, i, starts, moved, h)) writeI32(marks, first + i, 1)
      }
      if (found > most) most = found
      for (; found < contactPlane.COUNT; found++) clearPlane(stepOf(group, found), lane)
    }
    writeI32(group, planeGroup.planes, most)
    writeI32(group, planeGroup.opposed, isWedged(group, most) ? 1 : 0)
  }
}
/** Whether one of four particles has planes that face one another. */
function isWedged(group: usize, planes: i32): bool {
  for (let n = 1; n < planes; n++) {
    for (let m = 0; m < n; m++) if (any4(less4(cosineOf(stepOf(group, n), stepOf(group, m)), splat4(OPPOSED)))) return true
  }
  return false
}
function cosineOf(one: usize, other: usize): F4 {
  return dot4(
    load4(one, planeStep.normalX), load4(one, planeStep.normalY), load4(one, planeStep.normalZ),
    load4(other, planeStep.normalX), load4(other, planeStep.normalY), load4(other, planeStep.normalZ),
  )
}
/** Whether the body touches it where it would end up. */
function startPlane(step: usize, lane: i32, k: i32, plane: usize, colliders: usize, i: i32, starts: usize, moved: usize, h: f64): bool {
  let height = -readF64(plane, contactPlane.level)
  let carried = 0.0
  let gone = 0.0
  for (let axis = 0; axis < 3; axis++) {
    const n = readF64(plane, contactPlane.normalX + axis)
    const u = readF64(plane, contactPlane.velocityX + axis) * h
    height += n * readF32(starts, k * bodyRow.SIZE + axis)
    carried += n * u
    gone += n * readF32(moved, k * bodyRow.SIZE + axis)
    writeF32(step, planeStep.normalX + 4 * axis + lane, n)
    writeF32(step, planeStep.carryX + 4 * axis + lane, u)
    writeF32(step, planeStep.normalImpulse + 4 * axis + lane, 0.0)
  }
  const c = colliders + ((<usize>(truncate(readF64(plane, contactPlane.collider)) * collider.SIZE)) << 3)
  const grip = factor(c, collider.frictionFactor, i)
  writeF32(step, planeStep.tangentZ + lane, 0.0)
  writeF32(step, planeStep.height + lane, height)
  // n·δ ≥ −gap: no deeper than 0, or than it was, where the surface has since gone on
  writeF32(step, planeStep.gap + lane, height + carried < 0.0 ? -carried : height)
  writeF32(step, planeStep.staticFriction + lane, grip * readF64(c, collider.staticFriction))
  writeF32(step, planeStep.friction + lane, grip * readF64(c, collider.friction))
  writeF32(step, planeStep.pull + lane, factor(c, collider.stickinessFactor, i) * readF64(c, collider.stickiness) * h * h)
  return height + gone < 0.001 * readF32(starts, k * bodyRow.SIZE + bodyRow.radius)
}
function clearPlane(step: usize, lane: i32): void {
  for (let k = 0; k < planeStep.SIZE; k += 4) writeF32(step, k + lane, 0.0)
  writeF32(step, planeStep.gap + lane, FAR_OFF)
  writeF32(step, planeStep.height + lane, FAR_OFF)
}

/** One round against planes, as between pairs; what a plane bears is kept as w·λ and w·λₜ. */
export function solvePlanes(start: i32, end: i32, groups: usize, moved: usize): void {
  for (let g = start; g < end; g++) {
    const group = groupAt(groups, g)
    const index = loadI4(group, planeGroup.body)
    readRows(moved, index)
    let x = rowX
    let y = rowY
    let z = rowZ
    const w = rowW
    const wedged = readI32(group, planeGroup.opposed) == 1
    for (let n = 0; n < readI32(group, planeGroup.planes); n++) {
      const step = stepOf(group, n)
      solvePlane(step, x, y, z, w)
      x = add4(x, pushX)
      y = add4(y, pushY)
      z = add4(z, pushZ)
      for (let m = 0; m < n && wedged; m++) {
        solveWedge(step, stepOf(group, m), x, y, z, w)
        x = add4(x, pushX)
        y = add4(y, pushY)
        z = add4(z, pushZ)
      }
    }
    writeRows(moved, index, x, y, z, w)
  }
}
let pushX: F4 = splat4(0.0)
let pushY: F4 = splat4(0.0)
let pushZ: F4 = splat4(0.0)
function solvePlane(step: usize, x: F4, y: F4, z: F4, w: F4): void {
  const zero = splat4(0.0)
  const nx = load4(step, planeStep.normalX)
  const ny = load4(step, planeStep.normalY)
  const nz = load4(step, planeStep.normalZ)
  const before = load4(step, planeStep.normalImpulse)
  const gap = add4(dot4(nx, ny, nz, x, y, z), load4(step, planeStep.gap))
  const lambda = maximum4(zero, subtract4(before, gap))
  // who does not give way is not pushed, and what has no load does not rub
  const acts = and4(less4(zero, w), or4(notEqual4(lambda, zero), notEqual4(before, zero)))
  const sx = subtract4(x, load4(step, planeStep.carryX))
  const sy = subtract4(y, load4(step, planeStep.carryY))
  const sz = subtract4(z, load4(step, planeStep.carryZ))
  const along = dot4(sx, sy, sz, nx, ny, nz)
  const wasX = load4(step, planeStep.tangentX)
  const wasY = load4(step, planeStep.tangentY)
  const wasZ = load4(step, planeStep.tangentZ)
  const tx = subtract4(wasX, subtract4(sx, multiply4(along, nx)))
  const ty = subtract4(wasY, subtract4(sy, multiply4(along, ny)))
  const tz = subtract4(wasZ, subtract4(sz, multiply4(along, nz)))
  const load = add4(lambda, load4(step, planeStep.pull))
  const length = length4(tx, ty, tz)
  const slips = less4(multiply4(load4(step, planeStep.staticFriction), load), length)
  const cut = divide4(multiply4(load4(step, planeStep.friction), load), maximum4(length, splat4(1.0e-30)))
  const share = where4(acts, select4(slips, cut, splat4(1.0)))
  const gripX = multiply4(tx, share)
  const gripY = multiply4(ty, share)
  const gripZ = multiply4(tz, share)
  const borne = where4(acts, lambda)
  store4(step, planeStep.normalImpulse, borne)
  store4(step, planeStep.tangentX, gripX)
  store4(step, planeStep.tangentY, gripY)
  store4(step, planeStep.tangentZ, gripZ)
  const change = subtract4(borne, before)
  pushX = add4(multiply4(nx, change), subtract4(gripX, wasX))
  pushY = add4(multiply4(ny, change), subtract4(gripY, wasY))
  pushZ = add4(multiply4(nz, change), subtract4(gripZ, wasZ))
}

/** Impulses along the normals of two planes, of which k is the cosine, that take up `one` and `other`, what each is short of. */
let firstShare: F4 = splat4(0.0)
let secondShare: F4 = splat4(0.0)
function shareBetween(one: F4, other: F4, k: F4): void {
  const square = maximum4(subtract4(splat4(1.0), multiply4(k, k)), splat4(1.0e-4))
  firstShare = divide4(subtract4(one, multiply4(k, other)), square)
  secondShare = divide4(subtract4(other, multiply4(k, one)), square)
}
function pushAlong(one: usize, other: usize, a: F4, b: F4): void {
  pushX = add4(multiply4(load4(one, planeStep.normalX), a), multiply4(load4(other, planeStep.normalX), b))
  pushY = add4(multiply4(load4(one, planeStep.normalY), a), multiply4(load4(other, planeStep.normalY), b))
  pushZ = add4(multiply4(load4(one, planeStep.normalZ), a), multiply4(load4(other, planeStep.normalZ), b))
}
/** How far a body may still go into the surface, metres. */
function gapOf(step: usize, x: F4, y: F4, z: F4): F4 {
  const along = dot4(load4(step, planeStep.normalX), load4(step, planeStep.normalY), load4(step, planeStep.normalZ), x, y, z)
  return add4(along, load4(step, planeStep.gap))
}
/** A particle in a wedge of two planes: both touch, and neither has a load below 0. */
function solveWedge(one: usize, other: usize, x: F4, y: F4, z: F4, w: F4): void {
  const zero = splat4(0.0)
  pushX = zero
  pushY = zero
  pushZ = zero
  const k = cosineOf(one, other)
  const opposed = and4(less4(k, splat4(OPPOSED)), less4(zero, w))
  if (!any4(opposed)) return
  shareBetween(subtract4(zero, gapOf(one, x, y, z)), subtract4(zero, gapOf(other, x, y, z)), k)
  const first = add4(load4(one, planeStep.normalImpulse), firstShare)
  const second = add4(load4(other, planeStep.normalImpulse), secondShare)
  const acts = and4(opposed, and4(less4(zero, first), less4(zero, second)))
  if (!any4(acts)) return
  const a = where4(acts, firstShare)
  const b = where4(acts, secondShare)
  store4(one, planeStep.normalImpulse, add4(load4(one, planeStep.normalImpulse), a))
  store4(other, planeStep.normalImpulse, add4(load4(other, planeStep.normalImpulse), b))
  pushAlong(one, other, a, b)
}

/** One round of moving out what is still pressed into planes, by the share `firm`, with no velocity from it. */
export function depenetratePlanes(start: i32, end: i32, groups: usize, moved: usize, firm: f64): void {
  const zero = splat4(0.0)
  for (let g = start; g < end; g++) {
    const group = groupAt(groups, g)
    const index = loadI4(group, planeGroup.body)
    readRows(moved, index)
    let x = rowX
    let y = rowY
    let z = rowZ
    const w = rowW
    const gives = less4(zero, w)
    for (let n = 0; n < readI32(group, planeGroup.planes); n++) {
      const step = stepOf(group, n)
      const nx = load4(step, planeStep.normalX)
      const ny = load4(step, planeStep.normalY)
      const nz = load4(step, planeStep.normalZ)
      const height = add4(dot4(nx, ny, nz, x, y, z), load4(step, planeStep.height))
      const by = where4(gives, multiply4(splat4(firm), maximum4(zero, subtract4(zero, height))))
      x = add4(x, multiply4(nx, by))
      y = add4(y, multiply4(ny, by))
      z = add4(z, multiply4(nz, by))
    }
    writeRows(moved, index, x, y, z, w)
  }
}

/** Velocities after planes: none into them, and friction for what that takes. */
export function solvePlaneVelocities(start: i32, end: i32, groups: usize, speeds: usize, h: f64): void {
  const zero = splat4(0.0)
  const perSecond = splat4(1.0 / h)
  for (let g = start; g < end; g++) {
    const group = groupAt(groups, g)
    const index = loadI4(group, planeGroup.body)
    readRows(speeds, index)
    let x = rowX
    let y = rowY
    let z = rowZ
    const w = rowW
    for (let n = 0; n < readI32(group, planeGroup.planes); n++) {
      const step = stepOf(group, n)
      const nx = load4(step, planeStep.normalX)
      const ny = load4(step, planeStep.normalY)
      const nz = load4(step, planeStep.normalZ)
      const tx = subtract4(x, multiply4(perSecond, load4(step, planeStep.carryX)))
      const ty = subtract4(y, multiply4(perSecond, load4(step, planeStep.carryY)))
      const tz = subtract4(z, multiply4(perSecond, load4(step, planeStep.carryZ)))
      const along = dot4(nx, ny, nz, tx, ty, tz)
      const acts = and4(and4(less4(zero, w), less4(along, zero)), notEqual4(load4(step, planeStep.normalImpulse), zero))
      if (!any4(acts)) continue
      const change = where4(acts, subtract4(zero, along))
      // across n
      const sx = subtract4(tx, multiply4(along, nx))
      const sy = subtract4(ty, multiply4(along, ny))
      const sz = subtract4(tz, multiply4(along, nz))
      const speed = length4(sx, sy, sz)
      const slips = less4(multiply4(load4(step, planeStep.staticFriction), change), speed)
      const slid = multiply4(load4(step, planeStep.friction), change)
      const cut = minimum4(splat4(1.0), divide4(slid, maximum4(speed, splat4(1.0e-30))))
      const share = where4(acts, select4(slips, cut, splat4(1.0)))
      x = add4(x, subtract4(multiply4(nx, change), multiply4(sx, share)))
      y = add4(y, subtract4(multiply4(ny, change), multiply4(sy, share)))
      z = add4(z, subtract4(multiply4(nz, change), multiply4(sz, share)))
    }
    const planes = readI32(group, planeGroup.opposed) == 1 ? readI32(group, planeGroup.planes) : 0
    for (let n = 1; n < planes; n++) {
      for (let m = 0; m < n; m++) {
        leaveWedge(stepOf(group, n), stepOf(group, m), x, y, z, w, perSecond)
        x = add4(x, pushX)
        y = add4(y, pushY)
        z = add4(z, pushZ)
      }
    }
    writeRows(speeds, index, x, y, z, w)
  }
}
/** Speed along the normal of a plane, against its surface. */
function speedOff(step: usize, x: F4, y: F4, z: F4, perSecond: F4): F4 {
  return dot4(
    load4(step, planeStep.normalX), load4(step, planeStep.normalY), load4(step, planeStep.normalZ),
    subtract4(x, multiply4(perSecond, load4(step, planeStep.carryX))),
    subtract4(y, multiply4(perSecond, load4(step, planeStep.carryY))),
    subtract4(z, multiply4(perSecond, load4(step, planeStep.carryZ))),
  )
}
/** What takes a velocity out of both planes of a wedge. */
function leaveWedge(one: usize, other: usize, x: F4, y: F4, z: F4, w: F4, perSecond: F4): void {
  const zero = splat4(0.0)
  pushX = zero
  pushY = zero
  pushZ = zero
  const k = cosineOf(one, other)
  const borne = and4(less4(zero, load4(one, planeStep.normalImpulse)), less4(zero, load4(other, planeStep.normalImpulse)))
  const opposed = and4(and4(less4(k, splat4(OPPOSED)), less4(zero, w)), borne)
  if (!any4(opposed)) return
  shareBetween(subtract4(zero, speedOff(one, x, y, z, perSecond)), subtract4(zero, speedOff(other, x, y, z, perSecond)), k)
  const acts = and4(opposed, and4(less4(zero, firstShare), less4(zero, secondShare)))
  const a = where4(acts, firstShare)
  const b = where4(acts, secondShare)
  pushAlong(one, other, a, b)
}

/**
 * Who has moved slower than `speed` for `wait` seconds with something to lie on goes to sleep; who has nothing to lie
 * on any more, or lies on something that moves, wakes. `restTime` counts the seconds.
 */
export function updateSleep(
  start: i32, end: i32, first: i32, speeds: usize, sleeps: usize, touches: usize, contactNormal: usize, planes: usize, amount: usize, restTime: usize,
  phaseAge: usize, speed: f64, wait: f64, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const k = first + i
    const vx = readF32(speeds, k * bodyRow.SIZE)
    const vy = readF32(speeds, k * bodyRow.SIZE + 1)
    const vz = readF32(speeds, k * bodyRow.SIZE + 2)
    let lies = readI32(touches, k) > 0 ||
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
    const rests = slow && lies && !carried && readI32(sleeps, k) != sleepState.WOKEN && readF32(amount, i) > 0.0 && readF32(phaseAge, i) > h
    const before = readF32(restTime, i)
    // one that sleeps needs no more than it has
    writeF32(restTime, i, rests ? (before + h > 2.0 * wait ? 2.0 * wait : before + h) : 0.0)
  }
}
