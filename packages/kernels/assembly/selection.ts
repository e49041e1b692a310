/** Some of the particles: which they are, and what they have, side by side. */
import { and4, any4, equalI4, inRange4, loadI4, splatI4 } from './lanes'
import { readF32, readI32, writeI32 } from './machine'

/** Numbers of those in a phase who are there (age ≥ 0) and not `done` (i32). Returns how many. */
export function selectInPhase(count: i32, phase: usize, wanted: i32, age: usize, done: usize, out: usize): i32 {
  let found = 0
  for (let i = 0; i < count; i++) {
    if (readI32(phase, i) != wanted || readI32(done, i) != 0 || readF32(age, i) < 0.0) continue
    writeI32(out, found, i)
    found++
  }
  return found
}

/** Numbers of those whose age comes to their lifespan within `half` seconds, or whose radius is below `least` metres. */
export function selectDead(count: i32, age: usize, lifespan: usize, radius: usize, half: f64, least: f64, out: usize): i32 {
  let found = 0
  for (let i = 0; i < count; i++) {
    if (readF32(age, i) + half < readF32(lifespan, i) && readF32(radius, i) >= least) continue
    writeI32(out, found, i)
    found++
  }
  return found
}

/** Rows of `width` words of a column, of the particles that `index` names. */
export function gatherRows(start: i32, end: i32, index: usize, column: usize, width: i32, out: usize): void {
  for (let k = start; k < end; k++) {
    const i = readI32(index, k)
    for (let c = 0; c < width; c++) writeI32(out, k * width + c, readI32(column, i * width + c))
  }
}

/** Rows of `width` words back into a column, to the particles that `index` names. */
export function scatterRows(start: i32, end: i32, index: usize, rows: usize, width: i32, column: usize): void {
  for (let k = start; k < end; k++) {
    const i = readI32(index, k)
    for (let c = 0; c < width; c++) writeI32(column, i * width + c, readI32(rows, k * width + c))
  }
}

/** 1 where two columns (i32) differ in one of so many elements, else 0. */
export function differ(count: i32, one: usize, other: usize): i32 {
  for (let i = 0; i < count; i += 4) {
    const same = equalI4(loadI4(one, i), loadI4(other, i))
    if (any4(and4(inRange4(i, count), equalI4(same, splatI4(0))))) return 1
  }
  return 0
}
