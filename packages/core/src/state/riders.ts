/** Who is held where it was born on a mesh. */
import { words, type Columns } from './columns.ts'

/**
 * Pointers to the anchors of those that are held, for masks: others are asked where they are. Null: nobody is.
 * @param rides for each phase whether particles are held in it
 */
export function anchorsOfRiders(
  columns: Columns,
  rides: readonly boolean[],
): { anchors: { anchor: number; at: number }; free(): void } | null {
  const { heap, count } = columns
  const { anchor, anchorAt: at } = columns.at
  if (!anchor || !rides.includes(true)) return null
  if (!rides.includes(false)) return { anchors: { anchor, at }, free: () => undefined }
  const held = heap.allocate(Math.max(1, count) * 8)
  const [from, to, phase] = [words(columns, 'anchor'), heap.u32(held, count * 2), words(columns, 'phase')]
  for (let i = 0; i < count; i++) {
    const isHeld = rides[phase[i]!]
    to[i * 2] = isHeld ? from[i * 2]! : 0
    to[i * 2 + 1] = isHeld ? from[i * 2 + 1]! : 0
  }
  return { anchors: { anchor: held, at }, free: () => heap.free(held) }
}
