/**
 * How many others lie within `reach` radii of each particle, by a uniform grid of cells as wide as the widest
 * reach: built by counting, so that its order is that of the particles. Linear in their number while they are
 * of similar size.
 */
export function neighbourCounts(
  position: Float32Array,
  radius: Float32Array,
  reach: number,
  out: Float32Array,
): void {
  const count = radius.length
  let widest = 0
  for (const r of radius) widest = Math.max(widest, r * reach)
  if (count === 0 || widest === 0) return void out.fill(0)
  let buckets = 1
  while (buckets <= count) buckets *= 2
  const cellOf = (i: number, axis: number): number => Math.floor(position[i * 3 + axis]! / widest)
  const bucketOf = (x: number, y: number, z: number): number => {
    const h = Math.imul(x, 0x2c1b3c6d) ^ Math.imul(y, 0x297a2d39) ^ Math.imul(z, 0x1b56c4e9)
    return (h ^ (h >>> 15)) & (buckets - 1)
  }
  const first = new Uint32Array(buckets + 1)
  const own = new Uint32Array(count)
  for (let i = 0; i < count; i++) {
    own[i] = bucketOf(cellOf(i, 0), cellOf(i, 1), cellOf(i, 2))
    first[own[i]! + 1]!++
  }
  for (let b = 0; b < buckets; b++) first[b + 1]! += first[b]!
  const next = first.slice()
  const inOrder = new Uint32Array(count)
  for (let i = 0; i < count; i++) inOrder[next[own[i]!]!++] = i
  const seen = new Uint32Array(27)
  for (let i = 0; i < count; i++) {
    const squared = (radius[i]! * reach) ** 2
    let found = 0
    let looked = 0
    for (let c = 0; c < 27; c++) {
      const bucket = bucketOf(
        cellOf(i, 0) + (c % 3) - 1,
        cellOf(i, 1) + (Math.floor(c / 3) % 3) - 1,
        cellOf(i, 2) + Math.floor(c / 9) - 1,
      )
      // two cells may share a bucket: it is looked at once
      if (seen.subarray(0, looked).includes(bucket)) continue
      seen[looked++] = bucket
      for (let n = first[bucket]!; n < first[bucket + 1]!; n++) {
        const j = inOrder[n]!
        if (j === i) continue
        const x = position[j * 3]! - position[i * 3]!
        const y = position[j * 3 + 1]! - position[i * 3 + 1]!
        const z = position[j * 3 + 2]! - position[i * 3 + 2]!
        if (x * x + y * y + z * z <= squared) found++
      }
    }
    out[i] = found
  }
}
