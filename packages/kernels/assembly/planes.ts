/** Particles of a bundle against the planes that they are pressed on (pressed.ts finds them), and their rest. */
import { particleIn, push } from './bundle'
import { addWrapping, readF32, readF64, readI32, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'

/**
 * What lies on something is moved to where its velocity at the end of the substep would have brought it, x₀ + v·h in
 * place of x₀ + v₀·h + a·h²/2. Then contact takes from its velocity, by Δx/h, all that acceleration gave it, a·h; else
 * half of that would stay, and heaps would never come to rest. What is marked, or touches a plane, lies on something.
 */
export function lean(
  start: i32, end: i32, bundle: usize, first: i32, marks: usize, planes: usize, before: usize, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const p = particleIn(bundle, addWrapping(first, i))
    if (readF64(p, 15) == 1.0) continue
    let lies = readI32(marks, addWrapping(first, i)) == 1
    for (let n = 0; n < 4 && planes != 0 && !lies; n++) {
      const o = i * 32 + n * 8
      if (readF64(planes, o + 7) < 0.0) break
      const height = readF64(planes, o) * readF64(p, 0) + readF64(planes, o + 1) * readF64(p, 1) + readF64(planes, o + 2) * readF64(p, 2)
      lies = height < readF64(planes, o + 3) + 0.001 * readF64(p, 7)
    }
    writeI32(marks, addWrapping(first, i), lies ? 1 : 0)
    if (!lies || before == 0) continue
    for (let axis = 0; axis < 3; axis++) {
      const gained = readF64(p, 8 + axis) - readF32(before, i * 3 + axis)
      writeF64(p, axis, readF64(p, axis) + 0.5 * gained * h)
    }
  }
}

/**
 * One round against the planes of `planesNear`, as between pairs. `grips`: per collider 3 f64: μₛ, μ, S. Each particle
 * writes to itself only. `loads` holds, for 4 planes of a particle, w·λ and w·λₜ (4 f64).
 */
export function solvePlanes(
  start: i32, end: i32, bundle: usize, first: i32, planes: usize, grips: usize, loads: usize, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const p = particleIn(bundle, addWrapping(first, i))
    if (readF64(p, 6) == 0.0) continue
    for (let n = 0; n < 4; n++) {
      const o = i * 32 + n * 8
      const collider = truncate(readF64(planes, o + 7))
      if (collider < 0) break
      const px = readF64(planes, o)
      const py = readF64(planes, o + 1)
      const pz = readF64(planes, o + 2)
      // no deeper than it was as the substep began, where the surface has since gone on
      const level = readF64(planes, o + 3)
      const was =
        px * (readF64(p, 3) + readF64(planes, o + 4) * h) +
        py * (readF64(p, 4) + readF64(planes, o + 5) * h) +
        pz * (readF64(p, 5) + readF64(planes, o + 6) * h)
      const gap = px * readF64(p, 0) + py * readF64(p, 1) + pz * readF64(p, 2) - (was < level ? was : level)
      const l = i * 16 + n * 4
      const before = readF64(loads, l)
      const pull = readF64(grips, collider * 3 + 2) * h * h
      const lambda = before - gap > 0.0 ? before - gap : 0.0
      if (lambda == 0.0 && before == 0.0) continue
      writeF64(loads, l, lambda)
      push(p, 0, px * (lambda - before), py * (lambda - before), pz * (lambda - before))
      let sx = readF64(p, 0) - readF64(p, 3) - readF64(planes, o + 4) * h
      let sy = readF64(p, 1) - readF64(p, 4) - readF64(planes, o + 5) * h
      let sz = readF64(p, 2) - readF64(p, 5) - readF64(planes, o + 6) * h
      const along = sx * px + sy * py + sz * pz
      sx = readF64(loads, l + 1) - sx + px * along
      sy = readF64(loads, l + 2) - sy + py * along
      sz = readF64(loads, l + 3) - sz + pz * along
      const length = squareRoot(sx * sx + sy * sy + sz * sz)
      if (length > readF64(grips, collider * 3) * (lambda + pull)) {
        const share = (readF64(grips, collider * 3 + 1) * (lambda + pull)) / length
        sx *= share
        sy *= share
        sz *= share
      }
      push(p, 0, sx - readF64(loads, l + 1), sy - readF64(loads, l + 2), sz - readF64(loads, l + 3))
      writeF64(loads, l + 1, sx)
      writeF64(loads, l + 2, sy)
      writeF64(loads, l + 3, sz)
    }
  }
}

/** One round of moving out what is still pressed into planes, by the share `firm`, with no velocity from it. */
export function partPlanes(start: i32, end: i32, bundle: usize, first: i32, planes: usize, firm: f64): void {
  for (let i = start; i < end; i++) {
    const p = particleIn(bundle, addWrapping(first, i))
    if (readF64(p, 6) == 0.0) continue
    for (let n = 0; n < 4; n++) {
      const o = i * 32 + n * 8
      if (readF64(planes, o + 7) < 0.0) break
      const px = readF64(planes, o)
      const py = readF64(planes, o + 1)
      const pz = readF64(planes, o + 2)
      const deep = firm * (readF64(planes, o + 3) - (px * readF64(p, 0) + py * readF64(p, 1) + pz * readF64(p, 2)))
      if (deep > 0.0) push(p, 0, px * deep, py * deep, pz * deep)
    }
  }
}

/** Velocities after planes: none into them. */
export function settlePlanes(
  start: i32, end: i32, bundle: usize, first: i32, planes: usize, grips: usize, loads: usize,
): void {
  for (let i = start; i < end; i++) {
    const p = particleIn(bundle, addWrapping(first, i))
    if (readF64(p, 6) == 0.0) continue
    for (let n = 0; n < 4; n++) {
      const o = i * 32 + n * 8
      const collider = truncate(readF64(planes, o + 7))
      if (collider < 0) break
      if (readF64(loads, i * 16 + n * 4) == 0.0) continue
      const px = readF64(planes, o)
      const py = readF64(planes, o + 1)
      const pz = readF64(planes, o + 2)
      const vx = readF64(planes, o + 4)
      const vy = readF64(planes, o + 5)
      const vz = readF64(planes, o + 6)
      const now = px * (readF64(p, 8) - vx) + py * (readF64(p, 9) - vy) + pz * (readF64(p, 10) - vz)
      if (now >= 0.0) continue
      const change = -now
      push(p, 8, px * change, py * change, pz * change)
      const tx = readF64(p, 8) - vx
      const ty = readF64(p, 9) - vy
      const tz = readF64(p, 10) - vz
      const speed = squareRoot(tx * tx + ty * ty + tz * tz)
      if (speed == 0.0) continue
      const still = readF64(grips, collider * 3)
      const sliding = readF64(grips, collider * 3 + 1) * change
      const share = speed <= still * change || sliding >= speed ? 1.0 : sliding / speed
      push(p, 8, -tx * share, -ty * share, -tz * share)
    }
  }
}

/**
 * Who has moved slower than `speed` for `wait` seconds with something to lie on goes to sleep; who has nothing to lie
 * on any more, or lies on something that moves, wakes. `still` counts the seconds.
 */
export function tire(
  start: i32, end: i32, bundle: usize, first: i32, touches: usize, touched: usize, planes: usize, amount: usize, still: usize,
  phaseAge: usize, speed: f64, wait: f64, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const p = particleIn(bundle, addWrapping(first, i))
    const vx = readF64(p, 8)
    const vy = readF64(p, 9)
    const vz = readF64(p, 10)
    let lies = readI32(touches, addWrapping(first, i)) > 0 ||
      readF32(touched, i * 3) != 0.0 || readF32(touched, i * 3 + 1) != 0.0 || readF32(touched, i * 3 + 2) != 0.0
    let carried = false
    if (planes != 0) {
      for (let n = 0; n < 4; n++) {
        const o = i * 32 + n * 8
        if (readF64(planes, o + 7) < 0.0) break
        lies = true
        const ux = readF64(planes, o + 4)
        const uy = readF64(planes, o + 5)
        const uz = readF64(planes, o + 6)
        if (ux * ux + uy * uy + uz * uz > speed * speed) carried = true
      }
    }
    const slow = vx * vx + vy * vy + vz * vz < speed * speed
    const rests = slow && lies && !carried && readF64(p, 15) != 2.0 && readF32(amount, i) > 0.0 && readF32(phaseAge, i) > h
    const before = readF32(still, i)
    // one that sleeps needs no more than it has
    writeF32(still, i, rests ? (before + h > 2.0 * wait ? 2.0 * wait : before + h) : 0.0)
  }
}
