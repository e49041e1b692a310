/**
 * What the columns of a frame are expected to be, from the frame before it; only the difference is stored. A particle that was not there before
 * is expected to be as the one before it in the column. All in f32 and whole numbers, so that who reads expects what was expected in writing.
 */
import { ATTRIBUTES, ownId, type AttributeName, type Kept, type PopulationFrame } from '@tangle/core'
import type { CachedFrame } from './cachedFrame.ts'
import { bitsOf, toWholes, type Code } from './wholes.ts'

export type Columns = PopulationFrame['columns']

/** The frame before this one, by the particles of this one. */
export interface Before {
  columns: Columns
  /** Where in those columns a particle of this frame is; −1: it was not there. */
  index: Int32Array
  /** From there to here. */
  seconds: number
}

/** Where each of `ids` is among those of the frame before; both ascend. */
function indexIn(before: Uint32Array, ids: Uint32Array): Int32Array {
  const index = new Int32Array(ids.length)
  let at = 0
  for (let i = 0; i < ids.length; i++) {
    while (at < before.length && before[at]! < ids[i]!) at++
    index[i] = before[at] === ids[i] ? at : -1
  }
  return index
}

/** What a frame may expect of one population, whose particles are these; null: nothing. */
export function beforeOf(
  last: CachedFrame | null,
  population: string,
  ids: Uint32Array | undefined,
  rate: number,
): Before | null {
  const columns = last?.populations.find(({ id }) => id === population)?.columns
  if (!columns?.id || !ids) return null
  return { columns, index: indexIn(columns.id as Uint32Array, ids), seconds: Math.fround(1 / rate) }
}

/** How an attribute is kept where a frame is compact; null: it is not. */
export const keptAs = (name: AttributeName): Kept | null =>
  ownId(name) === null ? (ATTRIBUTES[name as 'id'].frames ?? null) : 'exact'

/** Who is who and how fast they go is coded first: where they are follows from it. */
export const inCodedOrder = (names: AttributeName[]): AttributeName[] => {
  const first: AttributeName[] = ['id', 'velocity']
  return [...first.filter((name) => names.includes(name)), ...names.filter((name) => !first.includes(name))]
}

/** One column of a frame that is being coded; `now` are the columns of it that are known already. */
export interface Coding {
  name: AttributeName
  width: number
  code: Code
  now: Columns
  before: Before | null
}

/** What a column is expected to be where particles were there before; null where nothing is known of it. */
function expected({ name, width, code, now, before }: Coding): Int32Array | null {
  const last = before?.columns[name]
  const was = before?.columns.id
  if (!before || !last || !was || last.length !== was.length * width) return null
  const { index, seconds, columns } = before
  if ('bits' in code) return picked(bitsOf(last), index, width, new Int32Array(index.length * width))
  const values = new Float32Array(index.length * width)
  const kept = keptAs(name)
  const [v0, v1] = [columns.velocity as Float32Array, now.velocity as Float32Array]
  const moves = v0 && v1 && v0.length === was.length * 3
  const half = Math.fround(seconds / 2)
  if (kept === 'place' && moves) follow(values, last as Float32Array, index, v0, v1, half)
  else if (kept === 'distance' && moves) followSpeed(values, last as Float32Array, index, v0, v1, half)
  else {
    picked(last as Float32Array, index, width, values)
    if (kept === 'time') for (let i = 0; i < values.length; i++) values[i]! += seconds
  }
  return toWholes(values, code)
}

function picked<T extends Float32Array | Int32Array>(from: T, index: Int32Array, width: number, into: T): T {
  for (let c = 0; c < width; c++) {
    for (let i = 0, to = c; i < index.length; i++, to += width) {
      const at = index[i]!
      if (at >= 0) into[to] = from[at * width + c]!
    }
  }
  return into
}

const { fround, sqrt } = Math

/** x₁ = x₀ + (v₀ + v₁)·t/2: the trapezium, wrong only by what the acceleration changes. */
function follow(
  x1: Float32Array,
  x0: Float32Array,
  index: Int32Array,
  v0: Float32Array,
  v1: Float32Array,
  half: number,
): void {
  for (let c = 0; c < 3; c++) {
    for (let i = 0, to = c; i < index.length; i++, to += 3) {
      const at = index[i]! * 3 + c
      if (at >= 0) x1[to] = fround(x0[at]! + fround(fround(v0[at]! + v1[to]!) * half))
    }
  }
}

/** s₁ = s₀ + |v₀ + v₁|·t/2. */
function followSpeed(
  s1: Float32Array,
  s0: Float32Array,
  index: Int32Array,
  v0: Float32Array,
  v1: Float32Array,
  half: number,
): void {
  for (let i = 0, to = 0; i < index.length; i++, to += 3) {
    const at = index[i]! * 3
    if (at < 0) continue
    const x = fround(v0[at]! + v1[to]!)
    const y = fround(v0[at + 1]! + v1[to + 1]!)
    const z = fround(v0[at + 2]! + v1[to + 2]!)
    const squared = fround(fround(fround(x * x) + fround(y * y)) + fround(z * z))
    s1[i] = fround(s0[index[i]!]! + fround(fround(sqrt(squared)) * half))
  }
}

/** How whole numbers differ from what was expected; 0, −1, 1, −2 … as 0, 1, 2, 3 …, so that what is small has few bits. */
export function differences(wholes: Int32Array, coding: Coding): Int32Array {
  const out = new Int32Array(wholes.length)
  const foreseen = expected(coding)
  if (foreseen) differencesFrom(wholes, out, foreseen, coding.before!.index, coding.width)
  else differencesBeside(wholes, out, coding.width)
  return out
}

function differencesFrom(
  wholes: Int32Array,
  out: Int32Array,
  foreseen: Int32Array,
  index: Int32Array,
  width: number,
): void {
  for (let c = 0; c < width; c++) {
    let beside = 0
    for (let i = 0, at = c; i < index.length; i++, at += width) {
      const difference = (wholes[at]! - (index[i]! >= 0 ? foreseen[at]! : beside)) | 0
      out[at] = (difference << 1) ^ (difference >> 31)
      beside = wholes[at]!
    }
  }
}
function differencesBeside(wholes: Int32Array, out: Int32Array, width: number): void {
  for (let at = 0; at < wholes.length; at++) {
    const difference = (wholes[at]! - (at < width ? 0 : wholes[at - width]!)) | 0
    out[at] = (difference << 1) ^ (difference >> 31)
  }
}

/** The whole numbers that differ so from what is expected, in place. */
export function fromDifferences(wholes: Int32Array, coding: Coding): Int32Array {
  const foreseen = expected(coding)
  if (foreseen) addForeseen(wholes, foreseen, coding.before!.index, coding.width)
  else addBeside(wholes, coding.width)
  return wholes
}

function addForeseen(wholes: Int32Array, foreseen: Int32Array, index: Int32Array, width: number): void {
  for (let c = 0; c < width; c++) {
    let beside = 0
    for (let i = 0, at = c; i < index.length; i++, at += width) {
      const folded = wholes[at]!
      beside = ((index[i]! >= 0 ? foreseen[at]! : beside) + ((folded >>> 1) ^ (0 - (folded & 1)))) | 0
      wholes[at] = beside
    }
  }
}
function addBeside(wholes: Int32Array, width: number): void {
  for (let at = 0; at < wholes.length; at++) {
    const folded = wholes[at]!
    wholes[at] = ((at < width ? 0 : wholes[at - width]!) + ((folded >>> 1) ^ (0 - (folded & 1)))) | 0
  }
}
