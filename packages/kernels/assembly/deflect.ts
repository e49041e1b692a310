/** What a rough surface makes of a bounce. */
import { nx, ny, nz } from './colliders'
import { maximum, squareRoot } from './machine'
import { philox, toUnit, word0, word1 } from './random'
import { cosineOf, sineOf } from './trigonometry'

const DEFLECT: i32 = 19

/** The velocity after it. */
export let outX: f64 = 0.0
export let outY: f64 = 0.0
export let outZ: f64 = 0.0

/**
 * Turns the velocity with which a particle leaves a surface, r, by an angle up to `wide`, even over the cap; never back
 * into the surface, whose normal is n (colliders.ts).
 */
export function deflect(rx: f64, ry: f64, rz: f64, id: i32, turn: i32, seed: i32, wide: f64): void {
  outX = rx
  outY = ry
  outZ = rz
  const speed = squareRoot(rx * rx + ry * ry + rz * rz)
  if (speed < 1.0e-30) return
  philox(id, DEFLECT, turn, 0, seed, 0)
  const cap = toUnit(word0) * (1.0 - cosineOf(wide))
  const height = 1.0 - cap
  const side = squareRoot(maximum(0.0, 1.0 - height * height)) * speed
  const about = 6.283185307179586 * toUnit(word1)
  // two directions across the way
  let sx = ry * nz - rz * ny
  let sy = rz * nx - rx * nz
  let sz = rx * ny - ry * nx
  let long = squareRoot(sx * sx + sy * sy + sz * sz)
  if (long < 1.0e-9 * speed) {
    sx = ny - nz
    sy = nz - nx
    sz = nx - ny
    const dot = (sx * rx + sy * ry + sz * rz) / (speed * speed)
    sx -= dot * rx
    sy -= dot * ry
    sz -= dot * rz
    long = squareRoot(sx * sx + sy * sy + sz * sz)
    if (long == 0.0) return
  }
  sx /= long
  sy /= long
  sz /= long
  const qx = (ry * sz - rz * sy) / speed
  const qy = (rz * sx - rx * sz) / speed
  const qz = (rx * sy - ry * sx) / speed
  const c = cosineOf(about) * side
  const s = sineOf(about) * side
  outX = rx * height + sx * c + qx * s
  outY = ry * height + sy * c + qy * s
  outZ = rz * height + sz * c + qz * s
  const off = outX * nx + outY * ny + outZ * nz
  if (off >= 0.0) return
  outX -= 2.0 * off * nx
  outY -= 2.0 * off * ny
  outZ -= 2.0 * off * nz
}
