import { placesAfter, rowsAmong, turnsBetween } from '@tangle/core'
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
  return {
    ...now,
    positions,
    turns: turnsBetween(now.turns, other.turns, rowsAmong(now.ids, other.ids), Math.abs(frames), ONE),
  }
}
