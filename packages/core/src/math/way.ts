/** The way of a particle within a substep: places, velocities and lengths by the share s of it that has gone by. */
import { add, length, scale, subtract, type Vector } from './vector.ts'

export interface Way {
  /** Metres. */
  length: number
  /** How far it has come, m. */
  lengthAt(s: number): number
  /** The share at which it has come so far. */
  shareAt(metres: number): number
  at(s: number): Vector
  /** Metres per second. */
  velocityAt(s: number): Vector
}

/** Both ends of a way, m and m/s, and how long it takes, s. */
export interface Ends {
  from: Vector
  to: Vector
  startVelocity: Vector
  endVelocity: Vector
  seconds: number
  /** Seconds since it was thrown back on the way; 0: it was not. */
  sinceContact: number
}

/** Where a way ends this far (share of it) from where its velocities lead, it was put there: it goes straight. */
const ASTRAY = 0.25

/**
 * A leapfrog step ends at x₀ + (v₀ + v₁)·h/2, so the cubic through both ends with both velocities (Hermite) is the parabola of even
 * acceleration, and for others as good as the step itself. Who hit something went straight to it and straight on.
 */
export function wayOf(ends: Ends): Way {
  const { from, to, startVelocity, endVelocity, seconds, sinceContact } = ends
  const chord = subtract(to, from)
  const led = scale(add(startVelocity, endVelocity), seconds / 2)
  if (sinceContact > 0 && sinceContact < seconds)
    return broken(from, subtract(to, scale(endVelocity, sinceContact)), to, seconds, 1 - sinceContact / seconds) // prettier-ignore
  if (length(subtract(chord, led)) > ASTRAY * length(chord)) return straight(from, chord, seconds)
  return cubic(ends)
}

function straight(from: Vector, chord: Vector, seconds: number): Way {
  const whole = length(chord)
  const velocity = seconds > 0 ? scale(chord, 1 / seconds) : chord
  return {
    length: whole,
    lengthAt: (s) => s * whole,
    shareAt: (metres) => (whole > 0 ? Math.min(1, metres / whole) : 1),
    at: (s) => add(from, scale(chord, s)),
    velocityAt: () => velocity,
  }
}

/** Straight to a place that it comes to at share `s0`, and straight on. */
function broken(from: Vector, middle: Vector, to: Vector, seconds: number, s0: number): Way {
  const parts = [
    straight(from, subtract(middle, from), seconds * s0),
    straight(middle, subtract(to, middle), seconds * (1 - s0)),
  ] as const
  const [one, other] = parts
  return {
    length: one.length + other.length,
    lengthAt: (s) => (s < s0 ? one.lengthAt(s / s0) : one.length + other.lengthAt((s - s0) / (1 - s0))),
    shareAt: (metres) =>
      metres < one.length ? s0 * one.shareAt(metres) : s0 + (1 - s0) * other.shareAt(metres - one.length),
    at: (s) => (s < s0 ? one.at(s / s0) : other.at((s - s0) / (1 - s0))),
    velocityAt: (s) => (s < s0 ? one : other).velocityAt(s),
  }
}

/** A place on the way is found to this share of its length. */
const CLOSE = 1e-9
/** Gauss and Legendre's rule of five points between 0 and 1: Abramowitz, Stegun, "Handbook of Mathematical Functions" (1964), 25.4.30. */
const NODES = [0.04691007703066802, 0.23076534494715845, 0.5, 0.7692346550528415, 0.9530899229693319]
const WEIGHTS = [0.11846344252809454, 0.23931433524968324, 0.28444444444444444, 0.23931433524968324, 0.11846344252809454] // prettier-ignore

function cubic({ from, to, startVelocity, endVelocity, seconds }: Ends): Way {
  // p(s) = from + s·(b + s·(c + s·d))
  const chord = subtract(to, from)
  const [b, e] = [scale(startVelocity, seconds), scale(endVelocity, seconds)]
  const c = subtract(scale(chord, 3), add(scale(b, 2), e))
  const d = subtract(add(b, e), scale(chord, 2))
  const [bx, by, bz] = b
  const [cx, cy, cz] = c
  const [dx, dy, dz] = d
  /** |p′(s)|, written out: it is asked some forty times a child. */
  const speedAt = (s: number): number => {
    const [t, u] = [2 * s, 3 * s * s]
    const [x, y, z] = [bx + cx * t + dx * u, by + cy * t + dy * u, bz + cz * t + dz * u]
    return Math.sqrt(x * x + y * y + z * z)
  }
  const lengthAt = (s: number): number => {
    let sum = 0
    for (let k = 0; k < NODES.length; k++) sum += WEIGHTS[k]! * speedAt(s * NODES[k]!)
    return sum * s
  }
  const whole = lengthAt(1)
  return {
    length: whole,
    lengthAt,
    shareAt(metres) {
      if (metres >= whole) return 1
      // Newton's method, held between the ends of what is left
      let [low, high] = [0, 1]
      let s = metres / whole
      for (let turn = 0; turn < 20; turn++) {
        const off = lengthAt(s) - metres
        if (Math.abs(off) < CLOSE * whole) return s
        if (off > 0) high = s
        else low = s
        const speed = speedAt(s)
        const next = speed > 0 ? s - off / speed : low
        s = next > low && next < high ? next : (low + high) / 2
      }
      return s
    },
    at: (s) => add(from, scale(add(b, scale(add(c, scale(d, s)), s)), s)),
    velocityAt(s) {
      if (seconds === 0) return endVelocity
      return scale(add(b, add(scale(c, 2 * s), scale(d, 3 * s * s))), 1 / seconds)
    },
  }
}
