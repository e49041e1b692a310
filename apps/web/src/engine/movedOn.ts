import { placesAfter } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'

/** Quaternions are packed as whole numbers to this. */
const ONE = 32767

/** A population a part of a frame later, or below 0 earlier, on its way from the frame before and to the one after. */
export function movedOn(
  now: PackedPopulation,
  frames: number,
  before: PackedPopulation[] | undefined,
  after: PackedPopulation[] | undefined,
): PackedPopulation {
  const [past, next] = [before, after].map((all) => all?.find(({ id }) => id === now.id))
  const positions = placesAfter(now, frames, past, next)
  const other = frames < 0 ? past : next
  if (!now.turns || !other?.turns) return { ...now, positions }
  return { ...now, positions, turns: turnedOn(now, other, Math.abs(frames)) }
}

/** The shorter way round, evenly along the chord: frames are near one another. */
function turnedOn(now: PackedPopulation, other: PackedPopulation, share: number): Int16Array {
  const [from, to] = [now.turns!, other.turns!]
  const turns = from.slice()
  for (let i = 0, k = 0; i < now.count; i++) {
    while (k < other.count && other.ids[k]! < now.ids[i]!) k++
    if (other.ids[k] !== now.ids[i]) continue
    let along = 0
    for (let c = 0; c < 4; c++) along += from[i * 4 + c]! * to[k * 4 + c]!
    const sign = along < 0 ? -1 : 1
    const chord = [0, 1, 2, 3].map(
      (c) => from[i * 4 + c]! + (sign * to[k * 4 + c]! - from[i * 4 + c]!) * share,
    )
    const scale = ONE / (Math.hypot(...chord) || 1)
    for (let c = 0; c < 4; c++) turns[i * 4 + c] = Math.round(chord[c]! * scale)
  }
  return turns
}
