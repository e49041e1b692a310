/** Points in cells of a width, to go through those near a place. */
export interface Crowd<T extends ArrayLike<number> = Float32Array> {
  position: T
  /** Points in the cells about a place: all within a cell's width of it, and others not much farther. They stay in `near` until it is asked again. */
  findNear(x: number, y: number, z: number): number
  readonly near: Uint32Array
}

export function gatherCrowd<T extends ArrayLike<number>>(position: T, width: number): Crowd<T> {
  const count = position.length / 3
  const size = 2 ** Math.ceil(Math.log2(Math.max(2, 2 * count)))
  const cellOf = Int32Array.from(position, (x) => Math.floor(x / width) | 0)
  const slotOf = (x: number, y: number, z: number): number =>
    (Math.imul(x, 73856093) ^ Math.imul(y, 19349663) ^ Math.imul(z, 83492791)) & (size - 1)
  const slotAt = (i: number): number => slotOf(cellOf[i * 3]!, cellOf[i * 3 + 1]!, cellOf[i * 3 + 2]!)
  const starts = new Uint32Array(size + 1)
  for (let i = 0; i < count; i++) starts[slotAt(i) + 1]!++
  for (let s = 0; s < size; s++) starts[s + 1]! += starts[s]!
  const order = new Uint32Array(count)
  const next = starts.slice()
  for (let i = 0; i < count; i++) order[next[slotAt(i)]!++] = i
  let near = new Uint32Array(256)
  return {
    position,
    get near() {
      return near
    },
    findNear(x, y, z) {
      const [cx, cy, cz] = [Math.floor(x / width), Math.floor(y / width), Math.floor(z / width)]
      let found = 0
      for (let k = cz - 1; k <= cz + 1; k++)
        for (let j = cy - 1; j <= cy + 1; j++)
          for (let i = cx - 1; i <= cx + 1; i++) {
            const slot = slotOf(i, j, k)
            const [from, to] = [starts[slot]!, starts[slot + 1]!]
            if (found + to - from > near.length) {
              const wider = new Uint32Array(2 * (found + to - from))
              wider.set(near)
              near = wider
            }
            for (let n = from; n < to; n++) {
              const point = order[n]!
              // others may share the slot; far from the origin cells are told apart by their last 32 bits
              if (
                cellOf[point * 3] === (i | 0) &&
                cellOf[point * 3 + 1] === (j | 0) &&
                cellOf[point * 3 + 2] === (k | 0)
              )
                near[found++] = point
            }
          }
      return found
    },
  }
}
