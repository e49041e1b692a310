/** On which side of a closed surface points lie, by as few winding numbers as can be. */
import { SIDE_GROUP, treeStack } from './layouts'
import { readF32, readI32, writeF32, writeI32 } from './machine'
import { windingAt } from './tree'

/** Does a point lie nearer to another one than that to the surface? Then both are on the same side. A hair less: distances are rounded. */
function follows(queries: usize, i: i32, other: i32, clear: f64): bool {
  const x = readF32(queries, i * 3) - readF32(queries, other * 3)
  const y = readF32(queries, i * 3 + 1) - readF32(queries, other * 3 + 1)
  const z = readF32(queries, i * 3 + 2) - readF32(queries, other * 3 + 2)
  return x * x + y * y + z * z < 0.98 * clear * clear
}

/**
 * Makes the distances of points inside negative, for groups of SIDE_GROUP of `count` points. Each takes its side from the last one,
 * or from that one of its group before it that is farthest from the surface, where it follows; else from its own winding
 * number. Beyond `limit` metres distances only say that they are farther.
 */
export function signDistances(
  start: i32, end: i32, count: i32, queries: usize, distance: usize, limit: f64,
  quads: usize, vertices: usize, dipoles: usize, stack: usize, thread: i32,
): void {
  const base = thread * treeStack.SIZE
  for (let group = start; group < end; group++) {
    const first = group * SIDE_GROUP
    const last = first + SIDE_GROUP < count ? first + SIDE_GROUP : count
    let clearest = -1
    let most = -1.0
    let before = 0.0
    for (let i = first; i < last; i++) {
      const own = readF32(distance, i)
      const clear = own < limit ? own : limit
      let inside = false
      if (i > first && follows(queries, i, i - 1, before)) inside = readF32(distance, i - 1) < 0.0
      else if (clearest >= 0 && follows(queries, i, clearest, most)) inside = readF32(distance, clearest) < 0.0
      else {
        inside =
          windingAt(quads, vertices, dipoles, stack, base, readF32(queries, i * 3), readF32(queries, i * 3 + 1), readF32(queries, i * 3 + 2)) > 0.5
      }
      if (inside) writeF32(distance, i, -own)
      before = clear
      if (clear > most) {
        most = clear
        clearest = i
      }
    }
  }
}

/**
 * Numbers of those on whom a collider acts (`amount` above 0) and of whom it is not known that they are on the right side of it: bits of
 * `sideFlags`. Of the others nothing is known any more. Returns how many.
 */
export function selectUnsided(count: i32, amount: usize, sideFlags: usize, wrong: i32, known: i32, out: usize): i32 {
  let found = 0
  for (let i = 0; i < count; i++) {
    const flags = readI32(sideFlags, i)
    if (readF32(amount, i) == 0.0) writeI32(sideFlags, i, flags & ~(wrong | known))
    else if ((flags & known) == 0 || (flags & wrong) != 0) {
      writeI32(out, found, i)
      found++
    }
  }
  return found
}
