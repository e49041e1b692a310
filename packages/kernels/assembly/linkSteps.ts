/**
 * Links as steps of paths (pathStep), four side by side: laid while no link comes or goes, started in each substep, strained after
 * the rounds. linkPaths.ts solves them.
 */
import { F32, link, pathStep } from './layouts'
import {
  add4, addI4, and4, any4, bits4, divide4, dot4, gather4, length4, less4, lessI4, load4, loadI4, maximum4, minimum4,
  multiply4, select4, splat4, splatI4, store4, subtract4, where4, F4,
} from './lanes'
import { linkAt } from './links'
import { readF32, readF64, readI32, truncate, writeF32, writeF64, writeI32 } from './machine'
import { apartX, apartY, apartZ, firstW, readApart, secondW } from './rows'

export function stepAt(steps: usize, n: i32): usize {
  return steps + <usize>(n * pathStep.SIZE * F32)
}

/** Compliance of what does not hold. */
export const SLACK: f64 = 1.0e30

/** Steps of the links in `slots` (i32, four a step). Places that nobody has get the body `nobody`, whose inverse mass is 0. */
export function laySteps(start: i32, end: i32, links: usize, slots: usize, nobody: i32, steps: usize): void {
  for (let k = start * 4; k < end * 4; k++) {
    const step = stepAt(steps, k >> 2)
    const lane = k & 3
    const n = readI32(slots, k)
    const record = linkAt(links, n < 0 ? 0 : n)
    writeI32(step, pathStep.number + lane, n)
    writeI32(step, pathStep.bodyA + lane, n < 0 ? nobody : truncate(readF64(record, link.bodyA)))
    writeI32(step, pathStep.bodyB + lane, n < 0 ? nobody : truncate(readF64(record, link.bodyB)))
    writeF32(step, pathStep.rest + lane, readF64(record, link.restLength))
    writeF32(step, pathStep.madeLength + lane, readF64(record, link.madeLength))
    writeF32(step, pathStep.breakFactor + lane, readF64(record, link.breakFactor))
    writeF32(step, pathStep.stretch + lane, readF64(record, link.stretch))
    writeF32(step, pathStep.mostStretch + lane, n < 0 ? -1.0 : readF64(record, link.stretch))
  }
}

/**
 * Steps as a substep begins, with λ = 0. α = (`compliance` + `soft`·L·(wₐ + w_b))/strength, in m/N: with soft = σ/2g a
 * link stretches by the share σ under the weight of one of its ends. `amounts` (f32) are those of the population whose
 * bodies begin at `first`; the strength of a link is the lesser of its ends'. What has none is slack, and so are lanes that
 * nobody has.
 */
export function startSteps(
  start: i32, end: i32, steps: usize, starts: usize, moved: usize, amounts: usize, first: i32, compliance: f64, soft: f64, h: f64,
): void {
  const zero = splat4(0.0)
  const squaredStep = splat4(h * h)
  for (let n = start; n < end; n++) {
    const step = stepAt(steps, n)
    const ia = loadI4(step, pathStep.bodyA)
    const ib = loadI4(step, pathStep.bodyB)
    readApart(starts, ia, ib)
    const x = apartX
    const y = apartY
    const z = apartZ
    readApart(moved, ia, ib)
    const w = add4(firstW, secondW)
    const rest = load4(step, pathStep.rest)
    const there = lessI4(splatI4(-1), loadI4(step, pathStep.number))
    const one = gather4(amounts, and4(there, addI4(ia, splatI4(-first))))
    const other = gather4(amounts, and4(there, addI4(ib, splatI4(-first))))
    const strength = minimum4(one, other)
    const acts = and4(there, less4(zero, strength))
    const alpha = divide4(add4(splat4(compliance), multiply4(multiply4(splat4(soft), rest), w)), multiply4(squaredStep, strength))
    store4(step, pathStep.startX, x)
    store4(step, pathStep.startY, y)
    store4(step, pathStep.startZ, z)
    store4(step, pathStep.excess, subtract4(dot4(x, y, z, x, y, z), multiply4(rest, rest)))
    store4(step, pathStep.compliance, select4(acts, alpha, splat4(SLACK)))
    store4(step, pathStep.impulse, zero)
  }
}

/**
 * After the rounds: the stretch of each; those beyond what they bear break, which their records say, and `flag` (i32) is set; beyond
 * `yields` the length at rest follows by the share `creep`.
 */
export function strainSteps(
  start: i32, end: i32, steps: usize, links: usize, starts: usize, moved: usize, breaks: f64, yields: f64, creep: f64, flag: usize,
): void {
  const zero = splat4(0.0)
  const one = splat4(1.0)
  for (let n = start; n < end; n++) {
    const step = stepAt(steps, n)
    const d = lengthNow(step, moved)
    const there = lessI4(splatI4(-1), loadI4(step, pathStep.number))
    const stretch = subtract4(divide4(d, load4(step, pathStep.madeLength)), one)
    store4(step, pathStep.stretch, stretch)
    if (breaks > 0.0) {
      const gone = and4(there, less4(multiply4(splat4(breaks), load4(step, pathStep.breakFactor)), stretch))
      if (any4(gone)) breakSteps(step, bits4(gone), links, flag)
      const held = select4(gone, splat4(-1.0), stretch)
      store4(step, pathStep.mostStretch, maximum4(load4(step, pathStep.mostStretch), where4(there, held)))
    } else store4(step, pathStep.mostStretch, maximum4(load4(step, pathStep.mostStretch), where4(there, stretch)))
    if (creep == 0.0) continue
    const rest = load4(step, pathStep.rest)
    const over = subtract4(divide4(d, rest), one)
    const long = maximum4(zero, subtract4(over, splat4(yields)))
    const short = minimum4(zero, add4(over, splat4(yields)))
    store4(step, pathStep.rest, multiply4(rest, add4(one, multiply4(splat4(creep), add4(long, short)))))
  }
}
/** |xₐ − x_b| of a step. */
export function lengthNow(step: usize, moved: usize): F4 {
  readApart(moved, loadI4(step, pathStep.bodyA), loadI4(step, pathStep.bodyB))
  return length4(
    add4(load4(step, pathStep.startX), apartX), add4(load4(step, pathStep.startY), apartY), add4(load4(step, pathStep.startZ), apartZ),
  )
}
function breakSteps(step: usize, which: i32, links: usize, flag: usize): void {
  for (let lane = 0; which >> lane != 0; lane++) {
    if (((which >> lane) & 1) == 1) writeF64(linkAt(links, readI32(step, pathStep.number + lane)), link.holds, 0.0)
  }
  writeI32(flag, 0, 1)
}

/** What steps have come to, back into the records of their links. Returns the greatest stretch that one has borne. */
export function syncSteps(count: i32, steps: usize, links: usize): f64 {
  let most = 0.0
  for (let k = 0; k < count * 4; k++) {
    const step = stepAt(steps, k >> 2)
    const lane = k & 3
    const n = readI32(step, pathStep.number + lane)
    if (n < 0) continue
    const record = linkAt(links, n)
    writeF64(record, link.restLength, readF32(step, pathStep.rest + lane))
    writeF64(record, link.stretch, readF32(step, pathStep.stretch + lane))
    writeF64(record, link.impulse, readF32(step, pathStep.impulse + lane))
    const borne = readF32(step, pathStep.mostStretch + lane)
    if (borne > most) most = borne
  }
  return most
}
