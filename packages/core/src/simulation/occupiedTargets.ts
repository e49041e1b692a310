/** Which of a goal's places living particles have already, for those that are born later. */
import type { Places } from '../goals/goal.ts'
import { floats, words, type Columns } from '../state/columns.ts'
import { goalAttributes } from '../state/attributes.ts'
import { RIGID } from '../scene/points.ts'

/**
 * Numbers of the places that are open to `wanting` more: those that the fewest have, and as many as it takes.
 * @param alone places that somebody has are not open
 */
export function openPlaces(
  columns: Columns,
  n: number,
  { on, points }: Places,
  wanting: number,
  alone: boolean,
): Uint32Array {
  const offered = 'ids' in points ? points.ids.length : points.triangles.length
  const [goal, at] = goalAttributes(n)
  const [goals, ats] = [words(columns, goal), floats(columns, at)]
  const had = new Map<number, number>()
  for (let i = 0; i < columns.count; i++) {
    if (goals[i * 2] !== on) continue
    const key = keyOf('ids' in points, goals[i * 2 + 1]!, ats, i * 3)
    had.set(key, (had.get(key) ?? 0) + 1)
  }
  const counts = Uint32Array.from({ length: offered }, (_, p) => {
    if ('ids' in points) return had.get(points.ids[p]!) ?? 0
    const place = points.triangles[p] === RIGID ? points.positions!.subarray(p * 3, p * 3 + 3) : points.weights.subarray(p * 2, p * 2 + 2) // prettier-ignore
    return had.get(keyOf(false, points.triangles[p]!, place, 0)) ?? 0
  })
  const upTo = (most: number): Uint32Array =>
    Uint32Array.from({ length: offered }, (_, p) => p).filter((p) => counts[p]! <= most)
  if (alone || had.size === 0) return upTo(0)
  const highest = counts.reduce((most, count) => Math.max(most, count), 0)
  let most = counts.reduce((least, count) => Math.min(least, count), Infinity)
  while (most < highest && upTo(most).length < wanting) most++
  return upTo(most)
}

/** A number for a place: a particle's id; a triangle's corner; or the bits of a position, mixed to 53. */
function keyOf(member: boolean, name: number, at: Float32Array, from: number): number {
  if (member) return name
  if (name !== RIGID) return name * 3 + (at[from]! > 0.5 ? 1 : at[from + 1]! > 0.5 ? 2 : 0)
  let [a, b] = [0x811c9dc5, 0x9e3779b9]
  for (let axis = 0; axis < 3; axis++) {
    const [bits] = new Uint32Array(Float32Array.of(at[from + axis]!).buffer)
    a = Math.imul(a ^ bits!, 0x85ebca6b)
    a ^= a >>> 15
    b = Math.imul(b ^ bits!, 0xc2b2ae35)
    b ^= b >>> 13
  }
  return (a >>> 0) * 2 ** 21 + (b >>> 11)
}
