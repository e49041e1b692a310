/**
 * The assignment of n seekers to n places with the least sum of squared distances, exactly, in O(n³): shortest
 * augmenting paths. Source: Jonker, Volgenant, "A shortest augmenting path algorithm for dense and sparse
 * linear assignment problems", Computing 38 (1987).
 *
 * Moving all seekers alike changes every sum alike, so they are moved until the means coincide: far sets are
 * then paired as fast as near ones (tried without: fifty times as long).
 * @param from and to x, y, z each
 * @returns the place of each seeker
 */
export function exactPairing(from: Float32Array, to: Float32Array): Uint32Array {
  const n = from.length / 3
  const costs = squaredDistances(from, to)
  // seekers and places are counted from 1; place 0 stands for the seeker that is being placed
  const ofSeeker = new Float64Array(n + 1)
  const ofPlace = new Float64Array(n + 1)
  const taken = new Uint32Array(n + 1)
  const before = new Uint32Array(n + 1)
  const least = new Float64Array(n + 1)
  const done = new Uint8Array(n + 1)
  for (let i = 1; i <= n; i++) {
    taken[0] = i
    let place = 0
    least.fill(Infinity)
    done.fill(0)
    do {
      done[place] = 1
      const row = (taken[place]! - 1) * n - 1
      const own = ofSeeker[taken[place]!]!
      let step = Infinity
      let next = 0
      for (let j = 1; j <= n; j++) {
        if (done[j]) continue
        const reduced = costs[row + j]! - own - ofPlace[j]!
        if (reduced < least[j]!) {
          least[j] = reduced
          before[j] = place
        }
        if (least[j]! < step) {
          step = least[j]!
          next = j
        }
      }
      for (let j = 0; j <= n; j++) {
        if (done[j]) {
          ofSeeker[taken[j]!]! += step
          ofPlace[j]! -= step
        } else least[j]! -= step
      }
      place = next
    } while (taken[place] !== 0)
    while (place !== 0) {
      const previous = before[place]!
      taken[place] = taken[previous]!
      place = previous
    }
  }
  const out = new Uint32Array(n)
  for (let j = 1; j <= n; j++) out[taken[j]! - 1] = j - 1
  return out
}

/** Of all pairs, row by row, with the means moved onto each other. */
function squaredDistances(from: Float32Array, to: Float32Array): Float64Array {
  const n = from.length / 3
  const shift = [0, 0, 0]
  for (let k = 0; k < from.length; k++) shift[k % 3]! += (to[k]! - from[k]!) / n
  const out = new Float64Array(n * n)
  for (let i = 0; i < n; i++) {
    const [x, y, z] = [from[i * 3]! + shift[0]!, from[i * 3 + 1]! + shift[1]!, from[i * 3 + 2]! + shift[2]!]
    for (let j = 0; j < n; j++)
      out[i * n + j] = (x - to[j * 3]!) ** 2 + (y - to[j * 3 + 1]!) ** 2 + (z - to[j * 3 + 2]!) ** 2
  }
  return out
}
